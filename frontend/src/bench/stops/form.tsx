import type { Form, Recipe } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { Figure, FigureList } from "../../shared/Figure";
import { mm, size } from "../../shared/format";
import { SelectField } from "../../shared/SelectField";
import { change, fittings, form as formAt, formKind, relief } from "../at";
import { Companions } from "../forms/Companions";
import { FORMS, type FormName } from "../forms";
import { FITTINGS } from "../steps/fittings";
import type { Remark } from "../steps/kinds";
import { StepList } from "../steps/StepList";
import { type HeightsPanel, type HeightsTrail, ofHeights, type Told } from "./stop";

const NAMES = Object.entries(FORMS).map(([kind, { name }]) => [kind as FormName, name] as const);

/** Heights laid on another form: with its own edge, which only a disc has round. */
const laidOn = (kind: FormName) =>
  change(relief, (now) => {
    const { form, edge } = FORMS[kind].laid;
    return { ...now, form: FRESH.forms[form], art: { ...now.art, edge: { ...FRESH.edge, kind: edge } } };
  });

function FormPanel({ piece, recipe, figures, edit, settle }: HeightsPanel) {
  const form = formAt.read(recipe);
  const chosen = formKind(recipe);
  const { purpose, Fields } = FORMS[chosen];
  const set = (part: object, label: string, resting = true) =>
    edit(
      change(formAt, (now) => ({ ...now, ...part }) as Form),
      label,
      resting,
    );
  const said = new Map<string, Remark>(figures?.form.remarks?.map((remark) => [remark.entry_id, remark]));
  return (
    <>
      <h2>Form</h2>
      <p className="intro">What the heights are laid on. They stand square to it everywhere.</p>
      <SelectField label="Form" value={chosen} options={NAMES} onChange={(kind) => edit(laidOn(kind), "form", true)} />
      <p className="field-help">{purpose}</p>
      {Fields && <Fields form={form} figures={figures} set={set} />}
      <StepList
        title="Fittings"
        what="fittings"
        one="fitting"
        list="fittings"
        kinds={FITTINGS}
        fresh={FRESH.fittings}
        place={fittings}
        recipe={recipe}
        context={{}}
        remarks={said}
        edit={edit}
        empty="None yet. A rim is a frame in the build-up at Heights."
      />
      <Companions piece={piece} recipe={recipe} figures={figures} edit={edit} settle={settle} />
      {figures && (
        <FigureList>
          {figures.form.around && figures.form.bare_radius_mm != null && <Figure name="Bare diameter">{mm(2 * figures.form.bare_radius_mm)} mm</Figure>}
          <Figure name="Across">{mm(figures.mesh.size_mm[0], 2)} mm</Figure>
          <Figure name="Deep">{mm(figures.mesh.size_mm[1], 2)} mm</Figure>
          <Figure name="High">{mm(figures.mesh.size_mm[2], 2)} mm</Figure>
        </FigureList>
      )}
    </>
  );
}

/** The form, and its angle where it has one. */
function words(recipe: Recipe): string {
  const laid = formAt.read(recipe);
  const kind = formKind(recipe);
  return "bend" in laid ? `${kind}, ${mm(laid.bend, 0)}°` : (FORMS[kind].said ?? kind);
}

function state({ recipe, figures }: HeightsTrail): Omit<Told, "figure"> {
  const refused = figures?.form.remarks?.filter((remark) => remark.refused).length ?? 0;
  if (refused) return { state: `${refused} not applied`, tone: "wrong" };
  return { state: words(recipe), tone: "quiet" };
}

/** What a hand would measure: the flat size of what lies, across and high of what stands. */
function useTold(props: HeightsTrail): Told {
  const { figures } = props;
  const [across, deep, high] = figures?.mesh.size_mm ?? [0, 0, 0];
  return { figure: figures ? size(across, figures.form.standing ? high : deep) : "…", ...state(props) };
}

export const form = ofHeights({ id: "form", name: "Form", Panel: FormPanel, useTold });
