import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { Switch } from "../../../shared/Switch";
import { usePieceStore } from "../../pieceStore";
import { Places } from "../../picture/grips";
import { BrushWidth, Strokes, Tools } from "./tools";
import { count } from "./words";
import type { CorrectionStep, Editing, Handling } from "./correction";

function RemoveEditor({ step, set }: Editing<"remove">) {
  const { setTool } = usePieceStore();
  return (
    <>
      <Choice
        label="Filled from"
        value={step.fill}
        options={[
          ["surroundings", "what is around"],
          ["copy", "another place"],
        ]}
        onChange={(fill) => {
          set({ fill });
          setTool(fill === "copy" && !step.source && step.strokes.length ? "source" : "paint");
        }}
      />
      <Tools
        options={
          step.fill === "copy"
            ? [
                ["paint", "paint over it"],
                ["source", "choose the place"],
              ]
            : [["paint", "paint over it"]]
        }
      />
      <BrushWidth />
      <Strokes count={step.strokes.length} undo={() => set({ strokes: step.strokes.slice(0, -1) })} />
      {step.fill === "copy" && (
        <>
          <LengthField label="Soft edge" value={step.feather} range={[0, 10]} step={0.1} slider onChange={(feather, r) => set({ feather }, r)} />
          <Switch label="Match the light" value={step.match_light} onChange={(match_light) => set({ match_light })} />
          <p className="field-help">The chosen place lands on the start of the first stroke.</p>
        </>
      )}
    </>
  );
}

const RemoveHandles = ({ step, frame }: Handling<"remove">) => (step.source ? <Places places={[step.source]} frame={frame} /> : null);

export const remove: CorrectionStep<"remove"> = {
  name: "Remove",
  purpose: "paint over something that must go",
  also: "heal, inpaint, retouch",
  group: "Parts",
  figure: (step) => count(step.strokes.length, "stroke"),
  Editor: RemoveEditor,
  Handles: RemoveHandles,
  firstTool: "paint",
  tools: {
    paint: { by: "stroke", done: (step, stroke) => ({ part: { strokes: [...step.strokes, stroke] } }) },
    source: { by: "click", done: (_, { place }) => ({ part: { source: place }, then: "paint" }) },
  },
};
