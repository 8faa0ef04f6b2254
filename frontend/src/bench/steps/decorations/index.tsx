import type { AnyDecoration, Decoration, Entry, Figures, Length, Recipe } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { ChooseFile } from "../../../shared/ChooseFile";
import { AXIS_CHOICES } from "../../../shared/axes";
import { Choice } from "../../../shared/Choice";
import { Figure, FigureList } from "../../../shared/Figure";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { showError } from "../../../shared/notices";
import { SelectField } from "../../../shared/SelectField";
import { Switch } from "../../../shared/Switch";
import { TextField } from "../../../shared/TextField";
import { usePieceStore } from "../../pieceStore";
import { staysWhereItIs } from "../finish/finishing";
import type { EditorProps, Kinds } from "../kinds";
import { FACES } from "../entries/text";
import { SOURCES, suitablePlace } from "./bring";
import { Fading } from "./Fading";
import { KeepMotif } from "./KeepMotif";
import { Parts } from "./Parts";
import { PlaceNumbers } from "./PlaceNumbers";
import { texture } from "./texture";
import { Trial } from "./Trial";
import { PointButton } from "../../PointButton";

export interface DecorationContext {
  recipe: Recipe;
  figures: Figures | undefined;
}

type Editing = EditorProps<Decoration, DecorationContext>;
type Tones = Extract<Decoration["art"]["build_up"][number], { kind: "picture" }>;

type Text = Extract<Entry, { kind: "text" }>;

/** What the step is called that leaves out a plain ground. */
const GROUND = "Ground";

const tonesOf = ({ art }: Decoration) => art.build_up.find((entry): entry is Tones => entry.kind === "picture" && entry.enabled);

const withTones = ({ art }: Decoration, part: Partial<Tones>) => ({
  art: { ...art, build_up: art.build_up.map((entry) => (entry.kind === "picture" ? ({ ...entry, ...part } as Tones) : entry)) },
});

/** How deep it is, mm: its picture, or its highest entry. */
function depthOf(step: Decoration): number {
  const entry = highest(step);
  return Math.abs(tonesOf(step)?.depth.mm ?? (entry && "height" in entry ? entry.height.mm : 1));
}

/** The entry that says how high it is, where the picture does not. */
const highest = ({ art }: Decoration) => art.build_up.findLast((entry): entry is Exclude<Entry, Tones> => entry.kind !== "picture" && entry.enabled);

const shapeUpTo = (threshold: number, depth: Length): Partial<Tones> => {
  const reach = Math.min(threshold, 1 - threshold) * 0.98;
  return {
    mapping: "plateaus",
    cut_dropped: true,
    pins: [
      { tone: Number((threshold - reach).toFixed(4)), mm: depth },
      { tone: Number((threshold + reach).toFixed(4)), mm: null },
    ],
  };
};

/** The middle between the tones that are the shape and that are not. */
const thresholdOf = ({ pins }: Tones): number => (pins.length > 1 ? Number(((pins[0].tone + pins[1].tone) / 2).toFixed(3)) : 0.5);

/** Another width of all of it: of a picture alone by its size, of what is placed on it by scaling. */
export function resized(step: Decoration, factor: number): Partial<Decoration> {
  const { picture, build_up } = step.art;
  const within = (value: number, low: number, high: number) => Number(Math.min(high, Math.max(low, value)).toFixed(3));
  if (!picture || build_up.some((entry) => entry.kind !== "picture")) return { times: within(step.times * factor, 0.001, 1000) };
  return { art: { ...step.art, picture: { ...picture, side: { mm: within(picture.side.mm * factor, 0.1, 5000), text: null } } } };
}

function DecorationEditor(props: Editing) {
  const { step, set, figures } = props;
  const said = figures?.decorations.find(({ decoration_id }) => decoration_id === step.id);
  return (
    <>
      <ArtFields {...props} />
      <SelectField
        label="It is"
        value={step.does}
        options={[
          ["raise", "raised"],
          ["sink", "sunk"],
          ["through", "cut through"],
          ["both", "raised and sunk"],
          ["inlay", "a part of its own"],
          ["colour", "colour alone"],
        ]}
        onChange={(does) => set({ does })}
      />
      {HELP[step.does] && <p className="field-help">{HELP[step.does]}</p>}
      {step.does !== "colour" && <DepthFields {...props} />}
      <h3 className="mt-3">Where it lies</h3>
      <PlaceFields {...props} />
      {said && !said.error && (
        <FigureList>
          <Figure name="Lines become">
            {mm(said.stretch[0], 3)} to {mm(said.stretch[1], 3)} as long
          </Figure>
          {said.round_mm != null && <Figure name="Once around">{mm(said.round_mm, 2)} mm</Figure>}
        </FigureList>
      )}
      <h3 className="mt-3">How often</h3>
      <RepeatFields {...props} />
      <div className="d-flex gap-2 flex-wrap mt-2">
        <Trial step={step} recipe={props.recipe} name={titleOf(step)} />
        <KeepMotif step={step} recipe={props.recipe} name={titleOf(step)} />
      </div>
    </>
  );
}

const HELP: Partial<Record<Decoration["does"], string>> = {
  both: "What is higher than its ground stands out, what is lower is sunk: entries below 0 at Heights.",
  inlay: "It lies in a pocket of the body, for a second material; Split in Finish sets it beside.",
  colour: "The colours of the picture on the surface, what is transparent left out.",
};

/** What is laid on, and how wide. */
function ArtFields({ step, set, figures }: Editing) {
  const go = usePieceStore((state) => state.go);
  const { picture } = step.art;
  const tones = tonesOf(step);
  const bring = (file: File) =>
    SOURCES.picture(file, figures).then((art) => {
      // Another picture keeps the numbers of the one before; its ground is its own.
      const kept = art.picture && picture ? { ...picture, file: art.picture.file, corrections: art.picture.corrections } : undefined;
      set({ art: kept ? { ...step.art, picture: kept } : art });
    }, showError);
  const ground = picture?.corrections.find(({ kind, name }) => kind === "isolate" && name === GROUND);
  const leaveOut = (enabled: boolean) =>
    picture &&
    set({ art: { ...step.art, picture: { ...picture, corrections: picture.corrections.map((one) => (one.id === ground?.id ? { ...one, enabled } : one)) } } });
  const words = tones ? undefined : highest(step);
  const write = (part: Partial<Text>, resting?: boolean) =>
    set({ art: { ...step.art, build_up: step.art.build_up.map((one) => (one.id === words?.id ? ({ ...one, ...part } as Entry) : one)) } }, resting);
  return (
    <>
      <div className="field d-flex gap-2 align-items-center flex-wrap">
        {picture && tones && <img className="overlay-thumb" src={`/api/pictures/${picture.file.sha256}/view.png?longest=96`} alt="" />}
        {(tones || !picture) && (
          <ChooseFile size="sm" variant="plain" label="Picture of the decoration" accept="image/*" onFile={(file) => void bring(file)}>
            Choose a picture
          </ChooseFile>
        )}
        {picture && (
          <Button size="sm" variant="plain" onClick={() => go(tones ? "picture" : "heights")}>
            Work on the art
          </Button>
        )}
      </div>
      {words?.kind === "text" && (
        <>
          <TextField label="Words" rows={2} maxLength={500} value={words.text} onChange={(text, r) => write({ text }, r)} />
          <SelectField label="Typeface" value={words.face} options={FACES} onChange={(face) => write({ face }, true)} />
          <LengthField
            label="Capital height"
            value={words.capital}
            range={[1, 40]}
            limits={[0.05, 5000]}
            step={0.5}
            slider
            onChange={(capital, r) => write({ capital }, r)}
          />
        </>
      )}
      {ground && <Switch label="Its plain ground is left out" value={ground.enabled} onChange={leaveOut} />}
      {picture && tones && (
        <LengthField
          label={picture.along === "wide" ? "Wide" : "Tall"}
          help="Along the surface."
          value={picture.side}
          range={[2, 100]}
          limits={[0.1, 5000]}
          step={0.5}
          slider
          onChange={(side, r) => set({ art: { ...step.art, picture: { ...picture, side } } }, r)}
        />
      )}
      {(!tones || step.times !== 1) && (
        <NumberField label="Times as large" value={step.times} range={[0.001, 1000]} step={0.05} slider={false} onChange={(times, r) => set({ times }, r)} />
      )}
    </>
  );
}

/** How deep it is. */
function DepthFields({ step, set, recipe }: Editing) {
  const tones = tonesOf(step);
  const entry = tones ? undefined : highest(step);
  return (
    <>
      {tones && (
        <LengthField
          label="Depth"
          help="Along the normal, the same everywhere."
          value={tones.depth}
          range={[0.1, 5]}
          limits={[0.01, 500]}
          step={0.1}
          slider
          onChange={(depth, r) =>
            set(
              withTones(step, { depth, ...(tones.mapping === "plateaus" ? { pins: tones.pins.map((pin) => (pin.mm ? { ...pin, mm: depth } : pin)) } : {}) }),
              r,
            )
          }
        />
      )}
      {entry && "height" in entry && (
        <LengthField
          label="Depth"
          help="Along the normal, the same everywhere."
          value={entry.height}
          range={[0.1, 5]}
          limits={[-500, 500]}
          step={0.1}
          slider
          onChange={(height, r) =>
            set({ art: { ...step.art, build_up: step.art.build_up.map((one) => (one.id === entry.id ? ({ ...one, height } as Entry) : one)) } }, r)
          }
        />
      )}
      {tones && (
        <>
          <Choice
            label="Tones are"
            value={tones.mapping === "plateaus" ? "flat" : "relief"}
            options={[
              ["relief", "heights"],
              ["flat", "a flat shape"],
            ]}
            help={tones.mapping === "plateaus" ? "What is dark is the shape, at full depth." : undefined}
            onChange={(how) => set(withTones(step, how === "flat" ? shapeUpTo(0.5, tones.depth) : { mapping: "straight", pins: [] }))}
          />
          {tones.mapping === "plateaus" ? (
            <NumberField
              label="Dark up to"
              value={thresholdOf(tones)}
              range={[0.02, 0.98]}
              step={0.01}
              onChange={(tone, r) => set(withTones(step, shapeUpTo(tone, tones.depth)), r)}
            />
          ) : (
            <Choice
              label="Stands high"
              value={tones.raised}
              options={[
                ["light", "light"],
                ["dark", "dark"],
              ]}
              onChange={(raised) => set(withTones(step, { raised }))}
            />
          )}
        </>
      )}
      {step.does !== "through" && (
        <LengthField
          label="Plate under it"
          help="How far its ground stands above the surface; below 0 it lies under it."
          value={step.lift}
          range={[-3, 3]}
          limits={[-100, 100]}
          step={0.1}
          onChange={(lift, r) => set({ lift }, r)}
        />
      )}
      {step.does !== "colour" && step.does !== "through" && (
        <LengthField
          label="Rounded at its foot"
          help="Where its walls meet the surface."
          value={step.fillet}
          range={[0, 2]}
          limits={[0, 100]}
          step={0.1}
          onChange={(fillet, r) => set({ fillet }, r)}
        />
      )}
      {["raise", "sink", "both"].includes(step.does) && <Parts step={step} recipe={recipe} depthMm={depthOf(step)} set={set} />}
      <Fading step={step} set={set} />
      {step.does === "inlay" && (
        <LengthField
          label="Clearance"
          help="All around it in its pocket."
          value={step.clearance}
          range={[0, 1]}
          limits={[0, 5]}
          step={0.05}
          onChange={(clearance, r) => set({ clearance }, r)}
        />
      )}
      <LengthField
        label="Held below"
        help={
          step.does === "inlay" ? "How deep its pocket is." : "How deep what is raised reaches into the body, or how far what is sunk is cut free above it."
        }
        value={step.art.backing}
        range={[0.1, 2]}
        limits={[0.05, 100]}
        step={0.1}
        onChange={(backing, r) => set({ art: { ...step.art, backing } }, r)}
      />
      <Switch label="Left for right" value={step.art.mirror} onChange={(mirror) => set({ art: { ...step.art, mirror } })} />
    </>
  );
}

/** Where it lies, and how. */
function PlaceFields(props: Editing) {
  const { step, set, recipe, figures } = props;
  const { picking, pick, laying, setLaying, catching, setCatching } = usePieceStore();
  const on = picking === step.id;
  const here = staysWhereItIs(recipe.finish);
  const said = figures?.decorations.find(({ decoration_id }) => decoration_id === step.id);
  const round = said?.round_mm;
  const side = step.art.picture?.along === "wide" && tonesOf(step) ? step.art.picture.side.mm * step.times : undefined;
  return (
    <>
      <PointButton
        name="Place it on the piece"
        how="Point or drag on the piece."
        disabled={!here}
        on={on}
        onChange={(now) => pick(now ? step.id : undefined)}
      />
      {!here && <p className="field-help">Possible while no finish step moves the piece.</p>}
      {on && (
        <>
          <Choice
            label="Dragging"
            value={laying}
            options={[
              ["slide", "slides it"],
              ["draw", "sizes and turns"],
              ["press", "presses more"],
            ]}
            help={DRAGGING[laying]}
            onChange={setLaying}
          />
          <Switch label="Caught by the middle of the body" value={catching} onChange={setCatching} />
        </>
      )}
      <Choice
        label="It lies"
        value={step.lie}
        options={[
          ["surface", "along the surface"],
          ["axis", "around an axis"],
          ["straight", "straight"],
        ]}
        help={LIES[step.lie]}
        onChange={(lie) => set({ lie })}
      />
      {step.lie === "axis" && (
        <>
          <Choice label="Axis" value={step.axis} options={AXIS_CHOICES} onChange={(axis) => set({ axis })} />
          <Switch label="Lines across stay level" value={step.level} onChange={(level) => set({ level })} />
          {round != null && side !== undefined && Math.abs(side / round - 1) > 1e-4 && (
            <Button size="sm" variant="plain" className="mb-2" onClick={() => set(resized(step, round / side))}>
              Once all around, {mm(round, 2)} mm
            </Button>
          )}
        </>
      )}
      <NumberField label="Turn" unit="°" value={step.turn} range={[-180, 180]} step={1} onChange={(turn, r) => set({ turn }, r)} />
      <PlaceNumbers {...props} />
    </>
  );
}

const DRAGGING = {
  slide: undefined,
  draw: "Press where its middle shall be, and drag to its right edge.",
  press: "Each press lays it once more, as a decoration of its own.",
};

const LIES = {
  surface: "Lengths from its middle outwards are kept.",
  axis: "Bent around the middle of the body: exact on columns and cones.",
  straight: "For faces that are nearly flat.",
};

/** How often it is laid. */
function RepeatFields({ step, set }: Editing) {
  return (
    <>
      <Choice
        label="It lies again"
        value={step.layout}
        options={[
          ["around", "around"],
          ["rows", "in rows"],
          ["mirror", "mirrored"],
          ["along", "along a line"],
        ]}
        help={step.layout === "mirror" ? "Once more, across the middle of the body." : undefined}
        onChange={(layout) => set({ layout })}
      />
      {step.layout === "along" && (
        <Choice
          label="The line"
          value={step.line}
          options={[
            ["edge", "beside an edge"],
            ["level", "at one height"],
          ]}
          help={step.line === "edge" ? "Each as far from the nearest edge of its face as this one." : "Around the body, as high along the axis as this one."}
          onChange={(line) => set({ line })}
        />
      )}
      {step.layout !== "mirror" && (
        <NumberField
          label={step.layout === "rows" ? "In a row" : "How often"}
          help={step.layout === "around" ? "Evenly around an axis through the middle of the body." : undefined}
          value={step.repeat}
          range={[1, 120]}
          step={1}
          slider={false}
          onChange={(repeat, r) => set({ repeat: Math.round(repeat) }, r)}
        />
      )}
      {step.layout === "rows" && (
        <>
          <NumberField label="Rows" value={step.rows} range={[1, 40]} step={1} slider={false} onChange={(rows, r) => set({ rows: Math.round(rows) }, r)} />
          {step.repeat > 1 && (
            <LengthField
              label="Apart"
              help="From the middle of one to that of the next, along the surface."
              value={step.gap}
              range={[1, 100]}
              limits={[0.1, 5000]}
              step={0.5}
              slider
              onChange={(gap, r) => set({ gap }, r)}
            />
          )}
          {step.rows > 1 && (
            <LengthField
              label="Rows apart"
              value={step.row_gap}
              range={[1, 100]}
              limits={[0.1, 5000]}
              step={0.5}
              slider
              onChange={(row_gap, r) => set({ row_gap }, r)}
            />
          )}
        </>
      )}
      {step.layout === "along" && step.repeat > 1 && (
        <LengthField
          label="Apart"
          help="Where the line has ends; around a closed one they lie evenly."
          value={step.gap}
          range={[1, 100]}
          limits={[0.1, 5000]}
          step={0.5}
          slider
          onChange={(gap, r) => set({ gap }, r)}
        />
      )}
      {step.lie !== "axis" &&
        ((step.layout === "along" && step.line === "level") || (step.layout === "around" && step.repeat > 1) || step.layout === "mirror") && (
          <Choice label={step.layout === "mirror" ? "Across" : "Around"} value={step.axis} options={AXIS_CHOICES} onChange={(axis) => set({ axis })} />
        )}
    </>
  );
}

const DOES = { raise: "raised", sink: "sunk", through: "cut through", both: "raised and sunk", inlay: "a part", colour: "colour" };

const countOf = ({ layout, repeat, rows }: Decoration) => (layout === "mirror" ? 2 : layout === "rows" ? repeat * rows : repeat);

/** What it is called: by its words, or by its file. */
function titleOf(step: Decoration): string {
  const entry = tonesOf(step) ? undefined : highest(step);
  const named = step.art.build_up.filter((one) => one.kind !== "picture" && one.enabled && one.name);
  if (entry && named.length > 1) return named.map(({ name }) => name).join(", ");
  if (entry?.kind === "text") return entry.text.split("\n")[0] || "Lettering";
  if (entry?.kind === "outline") return entry.name || entry.outline.kind[0].toUpperCase() + entry.outline.kind.slice(1);
  if (entry?.kind === "drawing") return entry.file.filename.replace(/\.[^.]*$/, "");
  return step.art.picture?.file.filename.replace(/\.[^.]*$/, "") || "Decoration";
}

export const DECORATIONS: Kinds<AnyDecoration, DecorationContext> = {
  texture: texture,
  decoration: {
    name: "Decoration",
    purpose: "art along the surface, raised or sunk",
    title: titleOf,
    word: "decoration",
    figure: (step) => {
      const side = tonesOf(step) ? step.art.picture?.side.mm : undefined;
      const often = countOf(step) > 1 ? `${countOf(step)} × ` : "";
      return `${often}${side ? `${mm(side * step.times, 1)} mm, ` : ""}${DOES[step.does]}`;
    },
    fresh: ({ figures }) => suitablePlace(figures),
    Editor: DecorationEditor,
  },
};
