import type { AnyFigurePart, CalmRegion, FigurePart } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { COLOURS } from "../../../shared/colours";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import { type Frame, fromPlace, toPlace } from "../../picture/frame";
import { Grip, Places, StrokeLines } from "../../picture/grips";
import { BrushWidth, Strokes, Tools } from "../corrections/tools";
import type { EditorProps, HandlesProps, Kinds, Tool } from "../kinds";

type Region = Pick<FigurePart, "strokes" | "spots" | "tolerance">;

interface RegionProps {
  step: Region;
  set: (part: Partial<Region>, resting?: boolean) => void;
  more?: [string, string][];
}

/** What of the picture it is: strokes over it, and what hangs together with a click. */
function RegionFields({ step, set, more = [] }: RegionProps) {
  return (
    <>
      <Tools options={[["draw", "draw over it"], ["click", "click a region"], ...more]} />
      <BrushWidth />
      <Strokes count={step.strokes.length} undo={() => set({ strokes: step.strokes.slice(0, -1) })} />
      {step.spots.length > 0 && (
        <>
          <div className="field field-row">
            <span className="field-help">
              {step.spots.length} region{step.spots.length === 1 ? "" : "s"} clicked
            </span>
            <Button size="sm" variant="plain" onClick={() => set({ spots: step.spots.slice(0, -1) })}>
              Take the last away
            </Button>
          </div>
          <NumberField
            label="Colours may differ by"
            unit="%"
            value={Number((step.tolerance * 100).toFixed(1))}
            range={[0.5, 60]}
            step={0.5}
            onChange={(share, r) => set({ tolerance: share / 100 }, r)}
          />
        </>
      )}
    </>
  );
}

function PartEditor({ step, set }: EditorProps<FigurePart, object>) {
  return (
    <>
      <p className="field-help">
        {step.strokes.length + step.spots.length
          ? "What is hidden behind it goes on there."
          : "Draw over it in the picture, or click a region of one colour: it becomes round by itself."}
      </p>
      <RegionFields step={step} set={set} more={[["joint", "set its joint"]]} />
      <LengthField
        label="In front of the middle"
        value={step.ahead}
        range={[-30, 30]}
        limits={[-500, 500]}
        step={0.5}
        slider
        help="Below 0 it lies behind."
        onChange={(ahead, r) => set({ ahead }, r)}
      />
      <NumberField label="Times as thick" value={step.times} range={[0.1, 3]} step={0.05} onChange={(times, r) => set({ times }, r)} />
      <Switch label="On the other side, too" value={step.both} onChange={(both) => set({ both })} />
      <h3 className="mt-3">About its joint</h3>
      <p className="field-help">{step.joint ? "Drag the joint in the picture." : "It is where the part meets the rest."}</p>
      <NumberField label="Turned" unit="°" value={step.turn} range={[-180, 180]} step={1} onChange={(turn, r) => set({ turn }, r)} />
      <NumberField label="Free end forward" unit="°" value={step.lean} range={[-60, 60]} step={1} onChange={(lean, r) => set({ lean }, r)} />
      <LengthField label="Moved right" value={step.right} range={[-30, 30]} limits={[-500, 500]} step={0.5} slider onChange={(right, r) => set({ right }, r)} />
      <LengthField label="Moved up" value={step.up} range={[-30, 30]} limits={[-500, 500]} step={0.5} slider onChange={(up, r) => set({ up }, r)} />
      <Switch label="Mirrored, too" value={step.mirrored} onChange={(mirrored) => set({ mirrored })} />
      {step.joint && (
        <Button size="sm" variant="plain" onClick={() => set({ joint: null })}>
          Joint found by itself
        </Button>
      )}
    </>
  );
}

function CalmEditor({ step, set }: EditorProps<CalmRegion, object>) {
  return (
    <>
      <p className="field-help">Detail from light and dark leaves it as it is.</p>
      <RegionFields step={step} set={set} />
    </>
  );
}

function Drawn({ step, frame, colour }: { step: Region; frame: Frame; colour: string }) {
  return (
    <>
      <StrokeLines strokes={step.strokes} colour={colour} frame={frame} />
      <Places places={step.spots} frame={frame} />
    </>
  );
}

function PartMarks({ step, frame, change }: HandlesProps<FigurePart>) {
  return (
    <>
      <Drawn step={step} frame={frame} colour={COLOURS.ochre} />
      {step.joint && (
        <Grip spot={fromPlace(frame, step.joint)} label="Joint" frame={frame} onDrag={(spot, _, resting) => change({ joint: toPlace(frame, spot) }, resting)} />
      )}
    </>
  );
}

const CalmMarks = ({ step, frame }: HandlesProps<CalmRegion>) => <Drawn step={step} frame={frame} colour={COLOURS.lichen} />;

const side = ({ ahead }: FigurePart) => (ahead.mm < 0 ? `${mm(-ahead.mm, 1)} mm behind` : `${mm(ahead.mm, 1)} mm in front`);

const drawing = <S extends FigurePart | CalmRegion>(colour: string): Record<string, Tool<S>> => ({
  draw: { by: "stroke", colour, done: (step, stroke) => ({ part: { strokes: [...step.strokes, stroke] } as Partial<S> }) },
  click: { by: "click", done: (step, { place }) => ({ part: { spots: [...step.spots, place] } as Partial<S> }) },
});

/** What of a figure is round by itself, and what of it detail leaves alone. */
export const PARTS: Kinds<AnyFigurePart, object> = {
  part: {
    name: "Part",
    purpose: "an arm in front, an ear behind",
    figure: side,
    firstTool: "draw",
    Editor: PartEditor,
    Handles: PartMarks,
    tools: { ...drawing<FigurePart>(COLOURS.ochre), joint: { by: "click", done: (_, { place }) => ({ part: { joint: place }, then: "none" }) } },
  },
  calm: {
    name: "Left alone",
    purpose: "where detail from light and dark makes no height",
    figure: () => "no detail",
    firstTool: "draw",
    Editor: CalmEditor,
    Handles: CalmMarks,
    tools: drawing<CalmRegion>(COLOURS.lichen),
  },
};
