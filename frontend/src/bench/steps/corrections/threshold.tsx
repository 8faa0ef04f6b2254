import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { tone } from "./words";
import { ToneField } from "./ToneField";
import type { CorrectionStep, Editing } from "./correction";

function ThresholdEditor({ step, set }: Editing<"threshold">) {
  return (
    <>
      <Choice
        label="Level"
        value={step.method}
        options={[
          ["otsu", "found"],
          ["manual", "by hand"],
          ["local", "local"],
        ]}
        help={
          step.method === "otsu"
            ? "Otsu's: parts dark from light with the least spread in each."
            : step.method === "local"
              ? "Compared with what is around: for unevenly lit scans."
              : undefined
        }
        onChange={(method) => set({ method })}
      />
      {step.method === "manual" && <ToneField label="White from" value={step.level} onChange={(level, r) => set({ level }, r)} />}
      {step.method === "local" && (
        <>
          <LengthField label="Around" value={step.radius} range={[0.2, 30]} step={0.2} slider onChange={(radius, r) => set({ radius }, r)} />
          <NumberField label="Darker by" value={step.offset} range={[-0.2, 0.4]} step={0.01} onChange={(offset, r) => set({ offset }, r)} />
        </>
      )}
    </>
  );
}

export const threshold: CorrectionStep<"threshold"> = {
  name: "Threshold",
  purpose: "black and white only",
  also: "binary, black-and-white",
  group: "Tones",
  figure: (step) => (step.method === "manual" ? tone(step.level) : step.method),
  Editor: ThresholdEditor,
};
