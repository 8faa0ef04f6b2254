import type { FigurePart } from "../../../api/client";
import { COLOURS } from "../../../shared/colours";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import { fromPlace } from "../../picture/frame";
import { BrushWidth, Strokes, Tools } from "../corrections/tools";
import type { EditorProps, HandlesProps, Kinds } from "../kinds";

function PartEditor({ step, set }: EditorProps<FigurePart, object>) {
  return (
    <>
      <Tools options={[["draw", "draw over it"]]} />
      <p className="field-help">{step.strokes.length ? "What is hidden behind it goes on there." : "Draw over it in the picture: it becomes round by itself."}</p>
      <BrushWidth />
      <Strokes count={step.strokes.length} undo={() => set({ strokes: step.strokes.slice(0, -1) })} />
      <LengthField label="In front of the middle" value={step.ahead} range={[-30, 30]} limits={[-500, 500]} step={0.5} slider help="Below 0 it lies behind." onChange={(ahead, r) => set({ ahead }, r)} />
      <NumberField label="Times as thick" value={step.times} range={[0.1, 3]} step={0.05} onChange={(times, r) => set({ times }, r)} />
      <Switch label="On the other side, too" value={step.both} onChange={(both) => set({ both })} />
    </>
  );
}

function Marks({ step, frame }: HandlesProps<FigurePart>) {
  const scale = Math.abs(fromPlace(frame, [1, 0])[0] - fromPlace(frame, [0, 0])[0]) || frame.width / 1000;
  return (
    <g pointerEvents="none">
      {step.strokes.map((stroke, index) => (
        <polyline
          key={index}
          points={stroke.points.map((spot) => fromPlace(frame, spot).join(",")).join(" ")}
          fill="none"
          stroke={COLOURS.ochre}
          strokeOpacity="0.55"
          strokeWidth={Math.max(2, stroke.wide * scale)}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      ))}
    </g>
  );
}

const side = ({ ahead }: FigurePart) => (ahead.mm < 0 ? `${mm(-ahead.mm, 1)} mm behind` : `${mm(ahead.mm, 1)} mm in front`);

/** What of a figure is round by itself. */
export const PARTS: Kinds<FigurePart, object> = {
  part: {
    name: "Part",
    purpose: "an arm in front, an ear behind",
    figure: side,
    firstTool: "draw",
    Editor: PartEditor,
    Handles: Marks,
    tools: { draw: { by: "stroke", colour: COLOURS.ochre, done: (step, stroke) => ({ part: { strokes: [...step.strokes, stroke] } }) } },
  },
};
