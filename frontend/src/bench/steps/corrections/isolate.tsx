import { COLOURS } from "../../../shared/colours";
import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import { usePieceStore } from "../../pieceStore";
import { fromPlace, type Spot } from "../../picture/frame";
import { Places, StrokeLines } from "../../picture/grips";
import { BrushWidth, Strokes, Tools } from "./tools";
import { tone } from "./words";
import { ToneField } from "./ToneField";
import type { CorrectionStep, Editing, Handling } from "./correction";

function IsolateEditor({ step, set }: Editing<"isolate">) {
  const { setTool } = usePieceStore();
  const strokes = step.keep.length + step.drop.length;
  return (
    <>
      <Choice
        label="The background is"
        value={step.method}
        options={[
          ["colour", "one colour"],
          ["strokes", "anything"],
        ]}
        onChange={(method) => {
          set({ method });
          setTool(method === "strokes" ? "box" : "none");
        }}
      />
      {step.method === "colour" ? (
        <>
          <Tools options={[["pick", "click the background"]]} />
          <NumberField label="Tolerance" value={step.tolerance} range={[0.005, 0.6]} step={0.005} onChange={(tolerance, r) => set({ tolerance }, r)} />
          <Switch label="Connected only" value={step.contiguous} onChange={(contiguous) => set({ contiguous })} />
          {step.places.length > 0 ? (
            <Button size="sm" variant="plain" onClick={() => set({ places: [] })}>
              Back to the edge of the picture
            </Button>
          ) : (
            <p className="field-help">Without a click, the colour along the edge of the picture.</p>
          )}
        </>
      ) : (
        <>
          <Tools
            options={[
              ["box", "box"],
              ["keep", "keep"],
              ["drop", "drop"],
            ]}
          />
          <p className="field-help">
            {step.box || strokes
              ? "Draw over what was missed (keep) or taken wrongly (drop)."
              : "Draw a box around the subject, then strokes on it and beside it."}
          </p>
          <BrushWidth />
          <Strokes count={strokes} undo={() => set(step.drop.length ? { drop: step.drop.slice(0, -1) } : { keep: step.keep.slice(0, -1) })} />
        </>
      )}
      <Switch label="Soft, clean edge" value={step.soften} onChange={(soften) => set({ soften })} />
      <LengthField label="Grow" value={step.grow} range={[-5, 5]} step={0.05} slider help="Below 0 shrinks." onChange={(grow, r) => set({ grow }, r)} />
      <LengthField label="Feather" value={step.feather} range={[0, 5]} step={0.05} slider onChange={(feather, r) => set({ feather }, r)} />
      <NumberField
        label="Fill holes to"
        unit="mm²"
        slider={false}
        value={step.fill_holes}
        range={[0, 1e6]}
        step={1}
        onChange={(fill_holes, r) => set({ fill_holes }, r)}
      />
      <NumberField
        label="Drop islands to"
        unit="mm²"
        slider={false}
        value={step.drop_islands}
        range={[0, 1e6]}
        step={1}
        onChange={(drop_islands, r) => set({ drop_islands }, r)}
      />
      <Choice
        label="The rest becomes"
        value={step.dropped}
        options={[
          ["transparent", "transparent"],
          ["tone", "a tone"],
        ]}
        onChange={(dropped) => set({ dropped })}
      />
      {step.dropped === "tone" && <ToneField label="Tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />}
    </>
  );
}

/** The box and the strokes of a cut. */
function Marks({ step, frame }: Handling<"isolate">) {
  if (step.method !== "strokes") return <Places places={step.places} frame={frame} />;
  return (
    <g pointerEvents="none">
      {step.box && (
        <polygon
          points={[
            [step.box.x, step.box.y],
            [step.box.x + step.box.wide, step.box.y],
            [step.box.x + step.box.wide, step.box.y + step.box.tall],
            [step.box.x, step.box.y + step.box.tall],
          ]
            .map((spot) => fromPlace(frame, spot as Spot).join(","))
            .join(" ")}
          fill="none"
          stroke={COLOURS.madder}
          strokeWidth="1.5"
          strokeDasharray="6 4"
        />
      )}
      <StrokeLines strokes={step.keep} colour={COLOURS.lichen} frame={frame} />
      <StrokeLines strokes={step.drop} colour={COLOURS.brick} frame={frame} />
    </g>
  );
}

export const isolate: CorrectionStep<"isolate"> = {
  name: "Isolate",
  purpose: "keep the subject, drop what is behind it",
  also: "mask, cut out, background",
  group: "Parts",
  figure: (step) => (step.method === "colour" ? `within ${tone(step.tolerance)}` : "by strokes"),
  Editor: IsolateEditor,
  Handles: Marks,
  tools: {
    pick: { by: "click", done: (step, { place }) => ({ part: { places: [...step.places, place] } }) },
    box: { by: "box", done: (_, box) => ({ part: { box }, then: "keep" }) },
    keep: { by: "stroke", colour: COLOURS.lichen, done: (step, stroke) => ({ part: { keep: [...step.keep, stroke] } }) },
    drop: { by: "stroke", colour: COLOURS.brick, done: (step, stroke) => ({ part: { drop: [...step.drop, stroke] } }) },
  },
};
