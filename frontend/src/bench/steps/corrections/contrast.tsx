import { mm } from "../../../shared/format";
import { NumberField } from "../../../shared/NumberField";
import type { CorrectionStep, Editing } from "./correction";

function ContrastEditor({ step, set }: Editing<"contrast">) {
  return <NumberField label="Contrast" value={step.amount} range={[-1, 1]} step={0.02} onChange={(amount, r) => set({ amount }, r)} />;
}

export const contrast: CorrectionStep<"contrast"> = {
  name: "Contrast",
  purpose: "tones away from middle gray",
  group: "Tones",
  figure: (step) => mm(step.amount),
  Editor: ContrastEditor,
};
