import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { Changed } from "./Changed";
import type { Editing, Finishing } from "./finishing";

function EvenEditor(props: Editing<"even">) {
  const { step, set } = props;
  return (
    <>
      <LengthField
        label="Edge"
        help="About how long every edge becomes. Sharp lines and borders stay."
        value={step.edge}
        range={[0.1, 10]}
        limits={[0.02, 500]}
        step={0.1}
        slider
        onChange={(edge, r) => set({ edge }, r)}
      />
      <Changed {...props} near />
    </>
  );
}

export const even: Finishing<"even"> = {
  name: "Even triangles",
  purpose: "of one edge length, to smooth or to sculpt on",
  also: "remesh, subdivide",
  group: "Triangles",
  figure: (step) => `${mm(step.edge.mm, 2)} mm`,
  near: true,
  Editor: EvenEditor,
};
