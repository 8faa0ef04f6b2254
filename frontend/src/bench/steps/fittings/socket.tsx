import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import type { Editing, FittingStep } from "./fitting";

function SocketEditor({ step, set }: Editing<"socket">) {
  return (
    <>
      <LengthField label="Lamp socket" value={step.lamp} range={[5, 120]} step={0.5} slider onChange={(lamp, r) => set({ lamp }, r)} />
      <LengthField label="Clearance" value={step.clearance} range={[0, 3]} step={0.1} onChange={(clearance, r) => set({ clearance }, r)} />
      <LengthField label="Thickness" value={step.thick} range={[0.6, 10]} step={0.1} onChange={(thick, r) => set({ thick }, r)} />
    </>
  );
}

export const socket: FittingStep<"socket"> = {
  name: "Socket ring",
  purpose: "for a lamp, in a tube or globe",
  figure: (step) => `${mm(step.lamp.mm)} mm lamp`,
  Editor: SocketEditor,
};
