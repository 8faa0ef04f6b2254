import { AXIS_CHOICES } from "../../../shared/axes";
import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { Changed } from "./Changed";
import { type Editing, type Finishing, middleAlong, reach } from "./finishing";

function TrimEditor(props: Editing<"trim">) {
  const { step, set } = props;
  const range = reach(step, props);
  const more = step.axis === "z" ? "above" : step.axis === "x" ? "right" : "behind";
  const less = step.axis === "z" ? "below" : step.axis === "x" ? "left" : "in front";
  return (
    <>
      <Choice
        label="Across"
        value={step.axis}
        options={AXIS_CHOICES}
        help="The plane stands square to this axis. It can be dragged, in the piece too."
        onChange={(axis) => set({ axis, at: middleAlong(step.id, axis, props) })}
      />
      <LengthField
        label="At"
        value={step.at}
        range={[range[0], range[1]]}
        limits={[-100_000, 100_000]}
        step={0.1}
        slider
        onChange={(at, r) => set({ at }, r)}
      />
      <Choice
        label="Keep"
        value={step.keep}
        options={[
          ["above", more],
          ["below", less],
        ]}
        onChange={(keep) => set({ keep })}
      />
      <Changed {...props} />
    </>
  );
}

export const trim: Finishing<"trim"> = {
  name: "Trim",
  purpose: "one side of a plane, with a flat cut",
  also: "plane cut, slice",
  group: "Shape",
  figure: (step) => `${step.axis} ${step.keep === "above" ? "≥" : "≤"} ${mm(step.at.mm, 2)}`,
  fresh: ({ figures }) => (figures ? { at: { mm: Number((figures.mesh.low_mm[2] + figures.mesh.size_mm[2] / 2).toFixed(2)), text: null } } : {}),
  Editor: TrimEditor,
};
