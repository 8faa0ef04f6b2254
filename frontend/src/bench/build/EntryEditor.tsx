import { useQuery } from "@tanstack/react-query";
import { api, type Entry, type Outline, take, type Unit } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { Choice } from "../../shared/Choice";
import { LengthField } from "../../shared/LengthField";
import { NumberField } from "../../shared/NumberField";
import { SelectField } from "../../shared/SelectField";
import { TextField } from "../../shared/TextField";
import { Switch } from "../../shared/Switch";
import { freshMotif, isPlaced, OUTLINES } from "./entries";
import { ProfileFields } from "./ProfileFields";

const RULES = [
  ["replace", "replace"],
  ["add", "add"],
  ["highest", "highest of both"],
  ["lowest", "lowest of both"],
  ["cut", "cut through"],
] as const;
const FACES = [
  ["plain", "plain, semibold"],
  ["plain_heavy", "plain, heavy"],
  ["slab", "slab, bold"],
  ["stencil", "stencil, for cutting"],
] as const;
const SECTIONS = [
  ["square", "square"],
  ["chamfered", "chamfered"],
  ["rounded", "rounded"],
  ["stepped", "stepped"],
] as const;
const OUTLINE_NAMES = Object.entries(OUTLINES).map(([kind, name]) => [kind as Outline["kind"], name.toLowerCase()] as const);

type Made<K extends Entry["kind"]> = Extract<Entry, { kind: K }>;

interface Props<E extends Entry> {
  entry: E;
  set: (part: Partial<E>, resting?: boolean) => void;
}

/** The numbers of one entry that is not the picture. */
export function EntryEditor({ entry, set }: Props<Exclude<Entry, { kind: "picture" }>>) {
  const change = set as (part: object, resting?: boolean) => void;
  return (
    <>
      <RuleFields entry={entry} set={change} />
      <Own entry={entry} set={change} />
      {isPlaced(entry) && entry.rule !== "cut" && (
        <ProfileFields profile={entry.profile} set={(profile, resting) => change({ profile }, resting)} />
      )}
      {isPlaced(entry) && (
        <>
          <div className="two-fields">
            <LengthField label="Right" value={entry.x} range={[-500, 500]} step={0.5} onChange={(x, r) => change({ x }, r)} />
            <LengthField label="Up" value={entry.y} range={[-500, 500]} step={0.5} onChange={(y, r) => change({ y }, r)} />
          </div>
          <NumberField label="Turn" unit="°" value={entry.turn} range={[-180, 180]} step={1} help="Place and turn count from the middle; or drag it in the picture." onChange={(turn, r) => change({ turn }, r)} />
        </>
      )}
    </>
  );
}

function RuleFields({ entry, set }: Props<Exclude<Entry, { kind: "picture" }>>) {
  const change = set as (part: object, resting?: boolean) => void;
  return (
    <>
      <SelectField label="Joins by" value={entry.rule} options={RULES} onChange={(rule) => change({ rule })} />
      {entry.rule !== "cut" && (
        <LengthField
          label="Height"
          help={entry.rule === "add" ? "Added to what lies below; below 0 it is sunk." : "Above the top of the backing."}
          value={entry.height}
          range={[-10, 20]}
          step={0.1}
          slider
          onChange={(height, r) => change({ height }, r)}
        />
      )}
    </>
  );
}

function Own({ entry, set }: { entry: Entry; set: (part: object, resting?: boolean) => void }) {
  switch (entry.kind) {
    case "outline":
      return <OutlineFields shape={entry.outline} set={(outline, r) => set({ outline }, r)} />;
    case "text":
      return <TextFields entry={entry} set={set} />;
    case "frame":
      return <FrameFields entry={entry} set={set} />;
    case "motif":
      return <MotifFields unit={entry.motif} set={(motif, r) => set({ motif }, r)} />;
    case "pattern":
      return <PatternFields entry={entry} set={set} />;
    default:
      return null;
  }
}

interface ShapeProps<T> {
  shape: T;
  set: (shape: T, resting?: boolean) => void;
}

function OutlineFields({ shape, set }: ShapeProps<Outline>) {
  const part = (values: object, resting?: boolean) => set({ ...shape, ...values } as Outline, resting);
  return (
    <>
      <SelectField
        label="Shape"
        value={shape.kind}
        options={OUTLINE_NAMES}
        onChange={(kind) => set({ ...FRESH.outlines[kind], wide: shape.wide } as Outline)}
      />
      <div className="two-fields">
        <LengthField label={"tall" in shape ? (shape.kind === "line" ? "Length" : "Width") : "Diameter"} value={shape.wide} range={[0.1, 500]} step={0.5} onChange={(wide, r) => part({ wide }, r)} />
        {"tall" in shape && (
          <LengthField label={shape.kind === "line" ? "Thickness" : "Tall"} value={shape.tall} range={[0.1, 500]} step={shape.kind === "line" ? 0.1 : 0.5} onChange={(tall, r) => part({ tall }, r)} />
        )}
        {shape.kind === "ring" && (
          <LengthField label="Band" value={shape.band} range={[0.1, 100]} step={0.1} onChange={(band, r) => part({ band }, r)} />
        )}
      </div>
      {shape.kind === "rectangle" && (
        <LengthField label="Corner radius" value={shape.corner} range={[0, 50]} step={0.5} slider onChange={(corner, r) => part({ corner }, r)} />
      )}
      {shape.kind === "polygon" && (
        <NumberField label="Sides" value={shape.sides} range={[3, 24]} step={1} onChange={(sides, r) => part({ sides: Math.round(sides) }, r)} />
      )}
      {shape.kind === "star" && (
        <>
          <NumberField label="Points" value={shape.points} range={[3, 24]} step={1} onChange={(points, r) => part({ points: Math.round(points) }, r)} />
          <NumberField label="Inner corners" value={shape.inner} range={[0.05, 0.98]} step={0.01} help="Share of the radius." onChange={(inner, r) => part({ inner }, r)} />
        </>
      )}
    </>
  );
}

function TextFields({ entry, set }: Props<Made<"text">>) {
  return (
    <>
      <TextField label="Text" rows={2} maxLength={500} value={entry.text} onChange={(text, r) => set({ text }, r)} />
      <SelectField label="Typeface" value={entry.face} options={FACES} onChange={(face) => set({ face })} />
      <LengthField label="Capital height" value={entry.capital} range={[1, 60]} step={0.5} slider onChange={(capital, r) => set({ capital }, r)} />
      <Choice
        label="Lines"
        value={entry.align}
        options={[
          ["left", "left"],
          ["centre", "centre"],
          ["right", "right"],
        ]}
        onChange={(align) => set({ align })}
      />
      <LengthField label="Letter spacing" value={entry.spacing} range={[-2, 10]} step={0.1} onChange={(spacing, r) => set({ spacing }, r)} />
      <LengthField label="Along an arc" value={entry.arc} range={[-300, 300]} step={1} help="Radius; 0 is straight, below 0 it hangs." onChange={(arc, r) => set({ arc }, r)} />
    </>
  );
}

function FrameFields({ entry, set }: Props<Made<"frame">>) {
  return (
    <>
      <LengthField label="Frame width" value={entry.wide} range={[0.4, 30]} step={0.1} slider onChange={(wide, r) => set({ wide }, r)} />
      <LengthField label="In from the edge" value={entry.inset} range={[0, 30]} step={0.1} onChange={(inset, r) => set({ inset }, r)} />
      <Choice
        label="Follows"
        value={entry.along}
        options={[
          ["edge", "the edge"],
          ["outline", "the outline"],
        ]}
        onChange={(along) => set({ along })}
      />
      <SelectField label="Section" value={entry.section} options={SECTIONS} onChange={(section) => set({ section })} />
    </>
  );
}

type MotifUnit = Made<"motif">["motif"];

function MotifFields({ unit, set }: { unit: MotifUnit; set: (unit: MotifUnit, resting?: boolean) => void }) {
  return (
    <>
      <MotifSwatches chosen={unit.sha256} choose={(sha256, filename) => set({ ...unit, sha256, filename })} />
      <Choice
        label="Taken as"
        value={unit.by}
        options={[
          ["outline", "its outline"],
          ["tones", "its tones"],
        ]}
        onChange={(by) => set({ ...unit, by })}
      />
      <Choice
        label="Of it stands"
        value={unit.raised}
        options={[
          ["dark", "the dark"],
          ["light", "the light"],
        ]}
        onChange={(raised) => set({ ...unit, raised })}
      />
      <LengthField label="Motif width" value={unit.wide} range={[0.5, 500]} step={0.5} slider onChange={(wide, r) => set({ ...unit, wide }, r)} />
    </>
  );
}

/** The motifs of the library. */
export function useMotifs() {
  return useQuery({
    queryKey: ["motifs", ""],
    queryFn: () => take(api.GET("/api/motifs", { params: { query: { query: "" } } })),
  }).data;
}

function MotifSwatches({ chosen, choose }: { chosen: string; choose: (sha256: string, name: string) => void }) {
  const motifs = useMotifs();
  if (!motifs?.length) return <p className="field-help">There are no motifs yet. Save a corrected picture as one.</p>;
  return (
    <div className="field swatches" role="group" aria-label="Motifs">
      {motifs.map((motif) => (
        <button
          key={motif.id}
          type="button"
          className="motif-swatch"
          aria-pressed={motif.picture.sha256 === chosen}
          aria-label={`Motif ${motif.name}`}
          title={motif.name}
          onClick={() => choose(motif.picture.sha256, motif.name)}
        >
          <img src={`/api/pictures/${motif.picture.sha256}/view.png?longest=96`} alt="" />
        </button>
      ))}
    </div>
  );
}

function PatternFields({ entry, set }: Props<Made<"pattern">>) {
  const motifs = useMotifs();
  const { unit, layout } = entry;
  const lay = (part: object, r?: boolean) => set({ layout: { ...layout, ...part } as typeof layout }, r);
  return (
    <>
      {motifs && motifs.length > 0 && (
        <Choice
          label="Repeats"
          value={unit.kind === "motif" ? "motif" : "shape"}
          options={[
            ["shape", "a shape"],
            ["motif", "a motif"],
          ]}
          onChange={(kind) =>
            set({ unit: (kind === "motif" ? { ...freshMotif(motifs[0].picture.sha256), wide: unit.wide } : { ...FRESH.outlines.star, wide: unit.wide }) as Unit })
          }
        />
      )}
      {unit.kind === "motif" ? (
        <MotifFields unit={unit} set={(next, r) => set({ unit: next }, r)} />
      ) : (
        <OutlineFields shape={unit} set={(next, r) => set({ unit: next }, r)} />
      )}
      <Choice
        label="Laid on"
        value={layout.kind}
        options={[
          ["grid", "a grid"],
          ["ring", "a ring"],
        ]}
        onChange={(kind) =>
          set({ layout: FRESH.layouts[kind] })
        }
      />
      {layout.kind === "grid" ? (
        <>
          <NumberField label="Columns" value={layout.columns} range={[1, 40]} step={1} slider={false} onChange={(n, r) => lay({ columns: Math.round(n) }, r)} />
          <NumberField label="Rows" value={layout.rows} range={[1, 40]} step={1} slider={false} onChange={(n, r) => lay({ rows: Math.round(n) }, r)} />
          <div className="two-fields">
            <LengthField label="Across" value={layout.across} range={[0.5, 200]} step={0.5} onChange={(across, r) => lay({ across }, r)} />
            <LengthField label="Upwards" value={layout.up} range={[0.5, 200]} step={0.5} onChange={(up, r) => lay({ up }, r)} />
          </div>
          <Switch label="Every second row half-way" value={layout.staggered} onChange={(staggered) => lay({ staggered })} />
        </>
      ) : (
        <>
          <NumberField label="How many" value={layout.count} range={[1, 60]} step={1} slider={false} onChange={(n, r) => lay({ count: Math.round(n) }, r)} />
          <LengthField label="Ring radius" value={layout.radius} range={[1, 200]} step={0.5} slider onChange={(radius, r) => lay({ radius }, r)} />
          <Switch label="Turned outwards" value={layout.turned} onChange={(turned) => lay({ turned })} />
        </>
      )}
    </>
  );
}
