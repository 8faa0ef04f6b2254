import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import type { Editing, FittingStep } from "./fitting";

function KeyholeEditor({ step, set }: Editing<"keyhole">) {
  return (
    <>
      <p className="field-help">As high as there is room, over the middle of its weight, so that it hangs straight.</p>
      <LengthField label="Head of the screw" value={step.head} range={[2, 20]} step={0.5} onChange={(head, r) => set({ head }, r)} />
      <LengthField label="Its neck" value={step.neck} range={[1, 15]} step={0.5} onChange={(neck, r) => set({ neck }, r)} />
      <LengthField label="Lip it hangs behind" value={step.lip} range={[0.4, 5]} step={0.1} onChange={(lip, r) => set({ lip }, r)} />
      <LengthField label="Room for the head" value={step.deep} range={[0.5, 8]} step={0.1} onChange={(deep, r) => set({ deep }, r)} />
      <LengthField label="Slides by" value={step.slot} range={[2, 30]} step={0.5} onChange={(slot, r) => set({ slot }, r)} />
      <LengthField label="At least over it" value={step.over} range={[0.2, 5]} step={0.1} onChange={(over, r) => set({ over }, r)} />
      <LengthField label="Clearance" value={step.clearance} range={[0, 2]} step={0.05} onChange={(clearance, r) => set({ clearance }, r)} />
    </>
  );
}

export const keyhole: FittingStep<"keyhole"> = {
  name: "Keyhole slot",
  purpose: "hangs flat on a screw",
  figure: (step) => `${mm(step.head.mm)} mm head`,
  Editor: KeyholeEditor,
};
