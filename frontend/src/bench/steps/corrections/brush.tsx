import { COLOURS } from "../../../shared/colours";
import { Button } from "../../../shared/Button";
import { NumberField } from "../../../shared/NumberField";
import { fromPlace } from "../../picture/frame";
import { BrushWidth, Strokes, Tools } from "./tools";
import { count } from "./words";
import { ToneField } from "./ToneField";
import type { CorrectionStep, Editing, Handling } from "./correction";

function BrushEditor({ step, set }: Editing<"brush">) {
  return (
    <>
      <Tools
        options={[
          ["paint", "paint"],
          ["axis", "place the axis"],
        ]}
      />
      <ToneField label="Tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />
      <BrushWidth />
      <NumberField label="Hardness" value={step.hardness} range={[0, 1]} step={0.05} onChange={(hardness, r) => set({ hardness }, r)} />
      <Strokes count={step.strokes.length} undo={() => set({ strokes: step.strokes.slice(0, -1) })} />
      {step.mirror_x != null && (
        <Button size="sm" variant="plain" onClick={() => set({ mirror_x: null })}>
          No mirrored strokes
        </Button>
      )}
    </>
  );
}

function Axis({ step: { mirror_x: x }, frame, shown }: Handling<"brush">) {
  if (x == null) return null;
  const long = 4 * Math.max(shown.corrected.cols, shown.corrected.rows);
  const [x1, y1] = fromPlace(frame, [x, -long]);
  const [x2, y2] = fromPlace(frame, [x, long]);
  return <line x1={x1} y1={y1} x2={x2} y2={y2} stroke={COLOURS.madder} strokeDasharray="6 4" pointerEvents="none" />;
}

export const brush: CorrectionStep<"brush"> = {
  name: "Brush",
  purpose: "paint a tone",
  group: "Parts",
  figure: (step) => count(step.strokes.length, "stroke"),
  Editor: BrushEditor,
  Handles: Axis,
  firstTool: "paint",
  tools: {
    paint: { by: "stroke", done: (step, stroke) => ({ part: { strokes: [...step.strokes, stroke] } }) },
    axis: { by: "click", done: (_, { place }) => ({ part: { mirror_x: place[0] }, then: "paint" }) },
  },
};
