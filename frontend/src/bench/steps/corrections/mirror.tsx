import { Choice } from "../../../shared/Choice";
import type { CorrectionStep, Editing } from "./correction";

function MirrorEditor({ step, set }: Editing<"mirror">) {
  return (
    <Choice
      label="Swap"
      value={step.axis}
      options={[
        ["left-right", "left and right"],
        ["top-bottom", "top and bottom"],
      ]}
      onChange={(axis) => set({ axis })}
    />
  );
}

export const mirror: CorrectionStep<"mirror"> = {
  name: "Mirror",
  purpose: "left for right, or top for bottom",
  also: "flip",
  group: "Frame",
  figure: (step) => step.axis.replace("-", ", "),
  Editor: MirrorEditor,
};
