import type { Form } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { Choice } from "../../shared/Choice";
import { Figure, FigureList } from "../../shared/Figure";
import { mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import { NumberField } from "../../shared/NumberField";
import { SelectField } from "../../shared/SelectField";
import { change, form as formAt, formKind, relief } from "../at";
import { Companions } from "../fittings/Companions";
import { FittingList } from "../fittings/FittingList";
import type { PanelProps } from "./PanelProps";

type Kind = Form["kind"] | "disc";

const FORMS: [Kind, string, string][] = [
  ["panel", "Panel", "Flat."],
  ["disc", "Disc", "A flat round, as wide as the shorter side."],
  ["arc", "Arc", "Bent about an upright axis; the width spans the angle."],
  ["tube", "Tube", "Once around; the bare surface measures the width of the picture."],
  ["globe", "Globe", "Once around a sphere, with an opening below."],
  ["dome", "Dome", "A cap of a sphere."],
];

/** A disc is a panel with a round edge; nothing else has one. */
const laidOn = (kind: Kind) =>
  change(relief, (now) => ({
    ...now,
    form: FRESH.forms[kind === "disc" ? "panel" : kind],
    art: { ...now.art, edge: { kind: kind === "disc" ? ("round" as const) : ("rectangle" as const) } },
  }));

export function FormPanel({ piece, recipe, figures, edit, settle }: PanelProps) {
  const form = formAt.read(recipe);
  const chosen = formKind(recipe);
  const set = (part: object, label: string, resting = true) =>
    edit(change(formAt, (now) => ({ ...now, ...part }) as Form), label, resting);
  const wide = figures?.form.wide_mm;
  return (
    <>
      <h2>Form</h2>
      <p className="intro">What the heights are laid on. They stand square to it everywhere.</p>
      <SelectField
        label="Form"
        value={chosen}
        options={FORMS.map(([kind, name]) => [kind, name] as const)}
        onChange={(kind) => edit(laidOn(kind), "form", true)}
      />
      <p className="field-help">{FORMS.find(([kind]) => kind === chosen)?.[2]}</p>
      {(form.kind === "arc" || form.kind === "dome") && (
        <NumberField
          label="Bend"
          unit="°"
          value={form.bend}
          range={[1, form.kind === "arc" ? 350 : 340]}
          step={1}
          help="The angle that the width spans."
          onChange={(bend, resting) => set({ bend }, "bend", resting)}
        />
      )}
      {form.kind === "arc" && wide && (
        <LengthField
          label="Bare radius"
          value={{ mm: Number((wide / ((form.bend * Math.PI) / 180)).toFixed(3)) }}
          range={[1, 2000]}
          step={1}
          help="Type it instead of the bend."
          onChange={(radius, resting) => {
            const bend = Math.min(350, Math.max(1, (wide / radius.mm) * (180 / Math.PI)));
            set({ bend: Number(bend.toFixed(4)) }, "bend", resting);
          }}
        />
      )}
      {form.kind === "globe" && (
        <LengthField
          label="Opening"
          value={form.opening}
          range={[1, 200]}
          step={1}
          slider
          help="Diameter of the hole below, on the bare surface."
          onChange={(opening, resting) => set({ opening }, "opening", resting)}
        />
      )}
      {"side" in form && (
        <Choice
          label="Heights stand"
          value={form.side}
          options={[
            ["outside", "outside"],
            ["inside", "inside"],
          ]}
          onChange={(side) => set({ side }, "side of the heights")}
        />
      )}
      <FittingList recipe={recipe} figures={figures} edit={edit} />
      <Companions piece={piece} recipe={recipe} edit={edit} settle={settle} />
      {figures && wide && (
        <FigureList>
          {(form.kind === "tube" || form.kind === "globe") && (
            <Figure name="Bare diameter">{mm(wide / Math.PI)} mm</Figure>
          )}
          <Figure name="Across">{mm(figures.mesh.size_mm[0], 2)} mm</Figure>
          <Figure name="Deep">{mm(figures.mesh.size_mm[1], 2)} mm</Figure>
          <Figure name="High">{mm(figures.mesh.size_mm[2], 2)} mm</Figure>
        </FigureList>
      )}
      <p className="coming mt-4">Laying it on a body of your own is not built yet.</p>
    </>
  );
}
