import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import type { Editing, FittingStep } from "./fitting";

function MagnetEditor({ step, set }: Editing<"magnet">) {
  return (
    <>
      <NumberField
        label="How many"
        value={step.count}
        range={[1, 12]}
        step={1}
        help="They find the places with most room, far apart."
        onChange={(count, r) => set({ count: Math.round(count) }, r)}
      />
      <LengthField label="Magnet, across" value={step.wide} range={[2, 30]} step={0.5} onChange={(wide, r) => set({ wide }, r)} />
      <LengthField label="Pocket, deep" value={step.deep} range={[0.5, 10]} step={0.1} onChange={(deep, r) => set({ deep }, r)} />
      <LengthField label="Clearance" value={step.clearance} range={[0, 2]} step={0.05} onChange={(clearance, r) => set({ clearance }, r)} />
      <LengthField label="At least over it" value={step.over} range={[0.2, 5]} step={0.1} onChange={(over, r) => set({ over }, r)} />
    </>
  );
}

export const magnet: FittingStep<"magnet"> = {
  name: "Magnet pocket",
  purpose: "round, in the underside",
  figure: (step) => `${step.count} of ${mm(step.wide.mm)} mm`,
  Editor: MagnetEditor,
};
