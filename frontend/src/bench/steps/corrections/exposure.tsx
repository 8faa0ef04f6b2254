import { mm } from "../../../shared/format";
import { NumberField } from "../../../shared/NumberField";
import type { CorrectionStep, Editing } from "./correction";

function ExposureEditor({ step, set }: Editing<"exposure">) {
  return (
    <NumberField
      label="Light"
      unit="stops"
      value={step.stops}
      range={[-4, 4]}
      step={0.05}
      help="One stop is twice the light."
      onChange={(stops, r) => set({ stops }, r)}
    />
  );
}

export const exposure: CorrectionStep<"exposure"> = {
  name: "Exposure",
  purpose: "more light for a faded or dark print",
  group: "Tones",
  figure: (step) => `${mm(step.stops)} stops`,
  Editor: ExposureEditor,
};
