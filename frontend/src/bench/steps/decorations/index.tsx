import { useRef } from "react";
import { addPicture, type Decoration, type Figures, type Recipe, type Schemas } from "../../../api/client";
import { FRESH } from "../../../api/fresh";
import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { Figure, FigureList } from "../../../shared/Figure";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { showError } from "../../../shared/notices";
import { Switch } from "../../../shared/Switch";
import { usePieceStore } from "../../pieceStore";
import { staysWhereItIs } from "../finish/finishing";
import type { EditorProps, Kinds } from "../kinds";

export interface DecorationContext {
  recipe: Recipe;
  figures: Figures | undefined;
}

type Tones = Extract<Decoration["art"]["build_up"][number], { kind: "picture" }>;

const tonesOf = ({ art }: Decoration) => art.build_up.find((entry): entry is Tones => entry.kind === "picture");

const withTones = ({ art }: Decoration, part: Partial<Tones>) => ({
  art: { ...art, build_up: art.build_up.map((entry) => (entry.kind === "picture" ? ({ ...entry, ...part } as Tones) : entry)) },
});

/** Dark up to a tone is the shape, the rest is nothing. */
const shapeUpTo = (threshold: number, depth: Tones["depth"]): Partial<Tones> => {
  const reach = Math.min(threshold, 1 - threshold) * 0.98;
  return {
    mapping: "plateaus",
    pins: [
      { tone: Number((threshold - reach).toFixed(4)), mm: depth },
      { tone: Number((threshold + reach).toFixed(4)), mm: null },
    ],
  };
};

/** Art of a picture, that wide on the surface. */
export function artOf({ sha256, filename }: Pick<Schemas["PictureOut"], "sha256" | "filename">, wideMm: number): Decoration["art"] {
  const picture = { ...FRESH.pictured, file: { sha256, filename }, side: { mm: wideMm, text: null } };
  const tones = { ...FRESH.entries.picture, id: "", depth: { mm: 1, text: null } };
  return { ...FRESH.art, picture, backing: { mm: 0.4, text: null }, build_up: [tones] } as unknown as Decoration["art"];
}

/** About what suits a body of that size: two fifths of its smaller side. */
export const suitableWide = (figures: Figures | undefined): number =>
  Number((figures ? 0.4 * Math.min(figures.mesh.size_mm[0], figures.mesh.size_mm[2]) : 20).toPrecision(2));

/** Its middle, as it is seen from the front. */
export function inFront(figures: Figures | undefined): [number, number, number] {
  if (!figures) return [0, 0, 0];
  const { low_mm: low, size_mm: size } = figures.mesh;
  return [low[0] + size[0] / 2, low[1], low[2] + size[2] / 2];
}

function DecorationEditor(props: EditorProps<Decoration, DecorationContext>) {
  const { step, set, recipe, figures } = props;
  const { picking, pick } = usePieceStore();
  const chooser = useRef<HTMLInputElement>(null);
  const on = picking === step.id;
  const here = staysWhereItIs(recipe.finish);
  const { picture } = step.art;
  const tones = tonesOf(step);
  const said = figures?.decorations.find(({ decoration_id }) => decoration_id === step.id);
  const bring = (file: File) =>
    addPicture(file).then((kept) => set(picture ? { art: { ...step.art, picture: { ...picture, file: { sha256: kept.sha256, filename: kept.filename } } } } : { art: artOf(kept, suitableWide(figures)) }), showError);
  return (
    <>
      <input
        ref={chooser}
        type="file"
        hidden
        accept="image/*"
        aria-label="Picture of the decoration"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) void bring(file);
        }}
      />
      <div className="field d-flex gap-2 align-items-center">
        {picture && <img className="overlay-thumb" src={`/api/pictures/${picture.file.sha256}/view.png?longest=96`} alt="" />}
        <Button size="sm" variant="plain" onClick={() => chooser.current?.click()}>
          Choose a picture
        </Button>
      </div>
      <Button size="sm" className="mb-2" variant={on ? undefined : "plain"} disabled={!here} aria-pressed={on} onClick={() => pick(on ? undefined : step.id)}>
        {on ? "Point or drag on the piece" : "Place it on the piece"}
      </Button>
      {!here && <p className="field-help">Possible while no finish step moves the piece.</p>}
      <Choice
        label="It is"
        value={step.does}
        options={[
          ["raise", "raised"],
          ["sink", "sunk"],
          ["through", "cut through"],
        ]}
        onChange={(does) => set({ does })}
      />
      {picture && (
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
      {tones && (
        <>
          <LengthField
            label="Depth"
            help="Along the normal, the same everywhere."
            value={tones.depth}
            range={[0.1, 5]}
            limits={[0.01, 500]}
            step={0.1}
            slider
            onChange={(depth, r) => set(withTones(step, { depth, ...(tones.mapping === "plateaus" ? { pins: tones.pins.map((pin) => (pin.mm ? { ...pin, mm: depth } : pin)) } : {}) }), r)}
          />
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
            <NumberField label="Dark up to" value={thresholdOf(tones)} range={[0.02, 0.98]} step={0.01} onChange={(tone, r) => set(withTones(step, shapeUpTo(tone, tones.depth)), r)} />
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
      <NumberField label="Turn" unit="°" value={step.turn} range={[-180, 180]} step={1} onChange={(turn, r) => set({ turn }, r)} />
      <NumberField label="How often" help="Evenly around an axis through the middle of the body." value={step.repeat} range={[1, 120]} step={1} slider={false} onChange={(repeat, r) => set({ repeat: Math.round(repeat) }, r)} />
      {step.repeat > 1 && (
        <Choice
          label="Around"
          value={step.axis}
          options={[
            ["x", "x"],
            ["y", "y"],
            ["z", "z"],
          ]}
          onChange={(axis) => set({ axis })}
        />
      )}
      <Switch label="Left for right" value={step.art.mirror} onChange={(mirror) => set({ art: { ...step.art, mirror } })} />
      <LengthField label="Held below" help="How deep what is raised reaches into the body, or how far what is sunk is cut free above it." value={step.art.backing} range={[0.1, 2]} limits={[0.05, 100]} step={0.1} onChange={(backing, r) => set({ art: { ...step.art, backing } }, r)} />
      {said && !said.error && (
        <FigureList>
          <Figure name="Lines become">
            {mm(said.stretch[0], 3)} to {mm(said.stretch[1], 3)} as long
          </Figure>
        </FigureList>
      )}
    </>
  );
}

/** The middle between the tones that are the shape and that are not. */
const thresholdOf = ({ pins }: Tones): number => (pins.length > 1 ? Number(((pins[0].tone + pins[1].tone) / 2).toFixed(3)) : 0.5);

const DOES = { raise: "raised", sink: "sunk", through: "cut through" };

export const DECORATIONS: Kinds<Decoration, DecorationContext> = {
  decoration: {
    name: "Decoration",
    purpose: "art along the surface, raised or sunk",
    title: ({ art }) => art.picture?.file.filename.replace(/\.[^.]*$/, "") || "Decoration",
    word: "decoration",
    figure: (step) => {
      const side = step.art.picture?.side.mm;
      return side ? `${step.repeat > 1 ? `${step.repeat} × ` : ""}${mm(side, 1)} mm, ${DOES[step.does]}` : "without a picture yet";
    },
    fresh: ({ figures }) => ({
      at: inFront(figures),
      art: { ...FRESH.art, extent: { wide: { mm: 20, text: null }, tall: { mm: 20, text: null } }, build_up: [] } as unknown as Decoration["art"],
    }),
    Editor: DecorationEditor,
  },
};
