import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import type { Editing, FittingStep } from "./fitting";

function TabsEditor({ step, set }: Editing<"tabs">) {
  return (
    <>
      <LengthField label="Stand out by" value={step.wide} range={[1, 20]} step={0.5} slider onChange={(wide, r) => set({ wide }, r)} />
      <LengthField label="Slot of the holder" value={step.slot} range={[0.6, 10]} step={0.1} onChange={(slot, r) => set({ slot }, r)} />
      <LengthField
        label="Clearance"
        value={step.clearance}
        range={[0, 2]}
        step={0.05}
        help="Between tab and slot, in all."
        onChange={(clearance, r) => set({ clearance }, r)}
      />
    </>
  );
}

export const tabs: FittingStep<"tabs"> = {
  name: "Tabs",
  purpose: "slide into a holder",
  figure: (step) => `${mm(step.slot.mm - step.clearance.mm)} mm thick`,
  Editor: TabsEditor,
};
