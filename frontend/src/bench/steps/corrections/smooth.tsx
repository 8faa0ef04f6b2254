import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { length } from "./words";
import type { CorrectionStep, Editing } from "./correction";

function SmoothEditor({ step, set }: Editing<"smooth">) {
  return (
    <>
      <Choice
        label="How"
        value={step.method}
        options={[
          ["edge_keeping", "keeping edges"],
          ["gaussian", "evenly"],
          ["median", "median"],
        ]}
        onChange={(method) => set({ method })}
      />
      <LengthField label="Radius" value={step.radius} range={[0, 5]} step={0.05} slider onChange={(radius, r) => set({ radius }, r)} />
      {step.method === "edge_keeping" && (
        <NumberField
          label="Keep steps above"
          value={step.keep}
          range={[0.01, 0.6]}
          step={0.01}
          help="A step in tone larger than this stays sharp."
          onChange={(keep, r) => set({ keep }, r)}
        />
      )}
    </>
  );
}

export const smooth: CorrectionStep<"smooth"> = {
  name: "Smooth",
  purpose: "calm noise and grain",
  also: "blur, denoise",
  group: "Cleaning",
  figure: (step) => length(step.radius),
  fresh: () => ({ method: "edge_keeping", radius: { mm: 0.4 } }),
  Editor: SmoothEditor,
};
