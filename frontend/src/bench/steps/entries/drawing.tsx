import { useQuery } from "@tanstack/react-query";
import { api, type Entry, type Length, type Recipe, take } from "../../../api/client";
import { Figure, FigureList } from "../../../shared/Figure";
import { mm, size } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { SelectField } from "../../../shared/SelectField";
import { Switch } from "../../../shared/Switch";
import { buildUp, change, pictured } from "../../at";
import type { Placing } from "../kinds";
import { by, type Editing, type EntryStep, type Made } from "./entry";
import { joinFigure, PlaceFields } from "./fields";
import { grips } from "./grips";
import { OutlinedFields } from "./OutlinedFields";

type Step = Made<"drawing">;

const UNIT_MM = { mm: 1, cm: 10, m: 1000, in: 25.4 };
const UNITS = [
  ["mm", "millimetres"],
  ["cm", "centimetres"],
  ["m", "metres"],
  ["in", "inches"],
] as const;

const useDrawing = (sha256: string) =>
  useQuery({
    queryKey: ["drawing", sha256],
    queryFn: () => take(api.GET("/api/drawings/{sha256}", { params: { path: { sha256 } } })),
    staleTime: Infinity,
  });

/** A picture of the drawing that the piece began with is as large as the drawing becomes. */
const withPicture = (file: Step["file"], factor: number) => (recipe: Recipe) =>
  pictured.read(recipe).file.filename === file.filename
    ? change(pictured, (now) => ({ ...now, side: { ...by(now.side, factor), text: null } }))(recipe)
    : recipe;

export const isDrawn = (filename: string) => /\.(svg|dxf)$/i.test(filename);

interface SizeProps {
  step: Step;
  edit: Editing<"drawing">["edit"];
}

/** What the file claims as its size, its unit where it names none, and the true width or height. */
export function DrawingSize({ step, edit }: SizeProps) {
  const { data: known } = useDrawing(step.file.sha256);
  const own = known ? UNIT_MM[known.guess] : 1;
  const unit = step.unit === "file" ? (known?.guess ?? "mm") : step.unit;
  // What the file says, in the unit that it is taken for.
  const times = known?.unit && step.unit === "file" ? 1 : UNIT_MM[unit] / own;
  const wide = (known?.wide_mm ?? 0) * times;
  const tall = (known?.tall_mm ?? 0) * times;
  const factor = step.side ? step.side.mm / (step.along === "wide" ? wide : tall) : 1;
  const shown = (along: Step["along"]): Length =>
    step.side && step.along === along ? step.side : { mm: Number(((along === "wide" ? wide : tall) * factor).toFixed(3)), text: null };
  // Picture and drawing fit each other at every moment: one edit.
  const resize = (part: Partial<Step>, next: number, resting = true) => {
    const sized = change(buildUp, (list) => list.map((one) => (one.id === step.id ? ({ ...one, ...part } as Entry) : one)));
    const pictured = Number.isFinite(next) ? withPicture(step.file, next) : (recipe: Recipe) => recipe;
    edit((recipe) => pictured(sized(recipe)), "size of the drawing", resting);
  };
  const typed = (along: Step["along"]) => (side: Length, resting?: boolean) =>
    resize({ along, side: { text: null, ...side } }, side.mm / shown(along).mm, resting);
  if (!known) return null;
  return (
    <>
      <FigureList>
        <Figure name="Drawing">{step.file.filename || known.filename}</Figure>
        <Figure name={known.unit ? "It says" : "Taken as"}>{size(wide, tall)}</Figure>
        {known.page_mm && (known.page_mm[0] > 1.01 * known.wide_mm || known.page_mm[1] > 1.01 * known.tall_mm) && (
          <Figure name="On a page of">{size(known.page_mm[0] * times, known.page_mm[1] * times)}</Figure>
        )}
      </FigureList>
      {!known.unit && (
        <>
          <SelectField
            label="Its unit"
            value={unit}
            options={UNITS}
            onChange={(next) => resize({ unit: next }, step.side ? 1 : UNIT_MM[next] / UNIT_MM[unit])}
          />
          <p className="field-help">The file does not say; {UNITS.find(([name]) => name === known.guess)?.[1]} suit its size.</p>
        </>
      )}
      <div className="two-fields">
        <LengthField label="Drawn wide" value={shown("wide")} range={[0.1, 2000]} step={1} onChange={typed("wide")} />
        <LengthField label="Drawn tall" value={shown("tall")} range={[0.1, 2000]} step={1} onChange={typed("tall")} />
      </div>
      {step.side && <Switch label="As large as the file says" value={false} onChange={() => resize({ side: null }, 1 / factor)} />}
      {known.notes.map((note) => (
        <p key={note} className="state-caution">
          {note}
        </p>
      ))}
    </>
  );
}

function DrawingEditor({ step, set, edit }: Editing<"drawing">) {
  const { data: known } = useDrawing(step.file.sha256);
  const layers = Object.entries(known?.layers ?? {});
  const taken = (name: string) => !step.layers || step.layers.includes(name);
  const toggle = (name: string, on: boolean) => {
    const names = layers.map(([one]) => one).filter((one) => (one === name ? on : taken(one)));
    set({ layers: names.length === layers.length ? null : names });
  };
  return (
    <PlaceFields entry={step} set={set as never}>
      <DrawingSize step={step} edit={edit} />
      {layers.length > 1 && (
        <fieldset className="field" aria-label="Groups and layers">
          <legend className="field-label">Groups and layers</legend>
          {layers.map(([name, lines]) => (
            <Switch
              key={name}
              label={`${name || "no name"}, ${lines} ${lines === 1 ? "line" : "lines"}`}
              value={taken(name)}
              onChange={(on) => toggle(name, on)}
            />
          ))}
        </fieldset>
      )}
      <LengthField label="Join ends closer than" value={step.join} range={[0, 5]} step={0.05} onChange={(join, r) => set({ join }, r)} />
      <OutlinedFields step={step} set={set as never} />
    </PlaceFields>
  );
}

const placing: Placing<Step> = {
  size: ({ side }) => side?.mm ?? 1,
  scaled: ({ side }, factor) => (side ? { side: { ...by(side, factor), text: null } } : {}),
};

export const drawing: EntryStep<"drawing"> = {
  name: "Drawing",
  purpose: "outlines from an SVG or a DXF",
  also: "vector, logo, extrude",
  title: ({ file }) => file.filename || "Drawing",
  word: "drawing",
  figure: (step) => (step.side ? `${mm(step.side.mm)} mm ${step.along}` : joinFigure(step)),
  missing: () => "drop an SVG or a DXF here",
  placing,
  Editor: DrawingEditor,
  Handles: grips(placing),
};
