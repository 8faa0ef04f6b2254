import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { NumberField } from "../../../shared/NumberField";
import type { CorrectionStep, Editing } from "./correction";

function EnlargeEditor({ step, set }: Editing<"enlarge">) {
  return (
    <>
      <NumberField label="Times" value={step.factor} range={[1, 16]} step={0.5} onChange={(factor, r) => set({ factor }, r)} />
      <Choice
        label="What it is"
        value={step.method}
        options={[
          ["photograph", "photograph"],
          ["lines", "lines, flat art"],
        ]}
        help={step.method === "lines" ? "Edges stay one pixel sharp, whatever the size." : "Smooth between the pixels."}
        onChange={(method) => set({ method })}
      />
    </>
  );
}

export const enlarge: CorrectionStep<"enlarge"> = {
  name: "Enlarge",
  purpose: "more pixels for a small source",
  also: "upscale",
  group: "Frame",
  figure: (step) => `× ${mm(step.factor)}`,
  Editor: EnlargeEditor,
};
