import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import type { CorrectionStep, Editing } from "./correction";

function LocalContrastEditor({ step, set }: Editing<"local_contrast">) {
  return (
    <>
      <NumberField
        label="Strength"
        value={step.amount}
        range={[-1, 4]}
        step={0.05}
        help="Below 0 details recede."
        onChange={(amount, r) => set({ amount }, r)}
      />
      <LengthField label="Details up to" value={step.radius} range={[0.1, 20]} step={0.1} slider onChange={(radius, r) => set({ radius }, r)} />
    </>
  );
}

export const localContrast: CorrectionStep<"local_contrast"> = {
  name: "Local contrast",
  purpose: "details stand out more",
  also: "sharpen",
  group: "Tones",
  figure: (step) => mm(step.amount),
  fresh: () => ({ amount: 0.8 }),
  Editor: LocalContrastEditor,
};
