import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { Changed } from "./Changed";
import type { Editing, Finishing } from "./finishing";

function SoftenEditor(props: Editing<"soften">) {
  const { step, set } = props;
  return (
    <>
      <LengthField
        label="Radius"
        help="Of edges and corners, outside and inside. What is thinner than twice this goes."
        value={step.radius}
        range={[0.2, 10]}
        limits={[0.05, 50]}
        step={0.1}
        slider
        onChange={(radius, r) => set({ radius }, r)}
      />
      <Changed {...props} near />
    </>
  );
}

export const soften: Finishing<"soften"> = {
  name: "Soften edges",
  word: "soften",
  purpose: "round edges and corners of a radius",
  also: "fillet, round, bevel",
  group: "Shape",
  figure: (step) => `${mm(step.radius.mm, 2)} mm`,
  near: true,
  Editor: SoftenEditor,
};
