import { AXIS_CHOICES } from "../../../shared/axes";
import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { Changed } from "./Changed";
import { type Editing, type Finishing, middleAlong, reach } from "./finishing";

const INTO = [
  ["halves", "two by a plane"],
  ["bodies", "its bodies"],
] as const;
function SplitEditor(props: Editing<"split">) {
  const { step, set } = props;
  return (
    <>
      <Choice
        label="Into"
        value={step.into}
        options={INTO}
        help={step.into === "bodies" ? "What hangs together stays together; they lie in a row, the largest first." : undefined}
        onChange={(into) => set({ into })}
      />
      {step.into === "halves" && <Halves {...props} />}
      <LengthField
        label="Gap"
        help="Between the parts as they are laid."
        value={step.gap}
        range={[0, 50]}
        limits={[0, 1000]}
        step={1}
        onChange={(gap, r) => set({ gap }, r)}
      />
      <Changed {...props} />
    </>
  );
}

function Halves(props: Editing<"split">) {
  const { step, set } = props;
  return (
    <>
      <Choice
        label="Across"
        value={step.axis}
        options={AXIS_CHOICES}
        help="The plane stands square to this axis. It can be dragged, in the piece too."
        onChange={(axis) => set({ axis, at: middleAlong(step.id, axis, props) })}
      />
      <LengthField label="At" value={step.at} range={reach(step, props)} limits={[-100_000, 100_000]} step={0.1} slider onChange={(at, r) => set({ at }, r)} />
      <NumberField label="Pins" value={step.pins} range={[0, 24]} step={1} slider={false} onChange={(pins, r) => set({ pins: Math.round(pins) }, r)} />
      {step.pins > 0 && (
        <>
          <LengthField label="Pin, wide" value={step.wide} range={[1, 20]} limits={[0.2, 200]} step={0.5} onChange={(wide, r) => set({ wide }, r)} />
          <LengthField
            label="Pin, long"
            help="Half of it is in either part."
            value={step.long}
            range={[2, 40]}
            limits={[0.2, 200]}
            step={0.5}
            onChange={(long, r) => set({ long }, r)}
          />
          <LengthField
            label="Clearance"
            help="On the diameter of its socket, and at its end."
            value={step.clearance}
            range={[0, 1]}
            limits={[0, 5]}
            step={0.05}
            onChange={(clearance, r) => set({ clearance }, r)}
          />
        </>
      )}
    </>
  );
}

export const split: Finishing<"split"> = {
  name: "Split",
  purpose: "in two that fit by pins, for what is larger than the bed; or its bodies apart",
  also: "cut, pins, parts, bodies",
  group: "Shape",
  figure: (step) => (step.into === "bodies" ? "its bodies" : `${step.axis} ${mm(step.at.mm, 2)}, ${step.pins} pin${step.pins === 1 ? "" : "s"}`),
  fresh: ({ figures }) => (figures ? { at: { mm: Number((figures.mesh.low_mm[2] + figures.mesh.size_mm[2] / 2).toFixed(2)), text: null } } : {}),
  Editor: SplitEditor,
};
