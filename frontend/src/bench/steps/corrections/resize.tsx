import { Button } from "../../../shared/Button";
import { NumberField } from "../../../shared/NumberField";
import { useInput } from "../../picture/useInput";
import type { CorrectionStep, Editing } from "./correction";

function ResizeEditor({ step, set, recipe, index }: Editing<"resize">) {
  const input = useInput(recipe, index);
  return (
    <>
      <NumberField
        label="Pixels across"
        slider={false}
        value={step.cols}
        range={[2, 30000]}
        step={1}
        onChange={(cols, r) => set({ cols: Math.round(cols) }, r)}
      />
      <NumberField
        label="Pixels down"
        slider={false}
        value={step.rows ?? (input ? Math.round(((step.cols - 1) / (input.cols - 1)) * (input.rows - 1)) + 1 : 2)}
        range={[2, 30000]}
        step={1}
        help={step.rows == null ? "Follows the width; typing one stretches the picture." : "Stretched: the proportions are not kept."}
        onChange={(rows, r) => set({ rows: Math.round(rows) }, r)}
      />
      {step.rows != null && (
        <Button size="sm" variant="plain" onClick={() => set({ rows: null })}>
          Keep the proportions
        </Button>
      )}
    </>
  );
}

export const resize: CorrectionStep<"resize"> = {
  name: "Resize",
  purpose: "another number of pixels",
  also: "resample",
  group: "Frame",
  figure: (step) => `${step.cols} px`,
  fresh: ({ piece: { picture } }) => ({ cols: Math.max(2, Math.round(picture.cols / 2)) }),
  Editor: ResizeEditor,
  framing: true,
};
