import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import type { Editing, FittingStep } from "./fitting";

function EyeletEditor({ step, set }: Editing<"eyelet">) {
  return (
    <>
      <LengthField label="Hole" value={step.hole} range={[1, 30]} step={0.5} slider onChange={(hole, r) => set({ hole }, r)} />
      <LengthField label="Band around it" value={step.band} range={[0.8, 12]} step={0.1} onChange={(band, r) => set({ band }, r)} />
      <LengthField label="Thickness" value={step.thick} range={[0.6, 10]} step={0.1} onChange={(thick, r) => set({ thick }, r)} />
      <NumberField label="Along the edge" value={step.across} range={[0, 1]} step={0.05} onChange={(across, r) => set({ across }, r)} />
    </>
  );
}

export const eyelet: FittingStep<"eyelet"> = {
  name: "Eyelet",
  purpose: "to hang it by",
  figure: (step) => `${mm(step.hole.mm)} mm hole`,
  Editor: EyeletEditor,
};
