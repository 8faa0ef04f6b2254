import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { NumberField } from "../../../shared/NumberField";
import type { CorrectionStep, Editing } from "./correction";

function DespeckleEditor({ step, set }: Editing<"despeckle">) {
  return (
    <>
      <NumberField label="Specks up to" unit="mm²" value={step.area} range={[0, 20]} step={0.05} onChange={(area, r) => set({ area }, r)} />
      <Choice
        label="Which"
        value={step.specks}
        options={[
          ["both", "both"],
          ["dark", "dark"],
          ["light", "light"],
        ]}
        onChange={(specks) => set({ specks })}
      />
      <NumberField label="Standing out by" value={step.contrast} range={[0.02, 0.6]} step={0.01} onChange={(contrast, r) => set({ contrast }, r)} />
    </>
  );
}

export const despeckle: CorrectionStep<"despeckle"> = {
  name: "Despeckle",
  purpose: "take out specks up to an area",
  also: "noise, dust",
  group: "Cleaning",
  figure: (step) => `${mm(step.area)} mm²`,
  Editor: DespeckleEditor,
};
