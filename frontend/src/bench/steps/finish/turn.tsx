import { Form } from "react-bootstrap";
import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { NumberField } from "../../../shared/NumberField";
import { Changed } from "./Changed";
import { type Editing, type Finishing } from "./finishing";
import { AXES } from "../../../shared/axes";

const MIRRORS = [
  ["none", "none"],
  ["x", "left, right"],
  ["y", "front, back"],
  ["z", "up, down"],
] as const;

function TurnEditor(props: Editing<"turn">) {
  const { step, set } = props;
  return (
    <>
      {AXES.map((axis) => (
        <NumberField
          key={axis}
          label={`About ${axis}`}
          unit="°"
          value={step[axis]}
          range={[-180, 180]}
          step={15}
          onChange={(degrees, r) => set({ [axis]: degrees }, r)}
        />
      ))}
      <Choice label="Mirror" value={step.mirror} options={MIRRORS} onChange={(mirror) => set({ mirror })} />
      <Form.Check
        className="field"
        type="switch"
        id={`${step.id}-centre`}
        label="Its middle over the origin"
        checked={step.centre}
        onChange={(event) => set({ centre: event.target.checked })}
      />
      <Form.Check
        className="field"
        type="switch"
        id={`${step.id}-drop`}
        label="Down on the table"
        checked={step.drop}
        onChange={(event) => set({ drop: event.target.checked })}
      />
      <Changed {...props} />
    </>
  );
}

export const turn: Finishing<"turn"> = {
  name: "Turn and set down",
  word: "turn",
  purpose: "turned, mirrored, centred, on the table",
  also: "rotate, mirror, flip, drop",
  group: "Place",
  figure: (step) => {
    const angles = AXES.filter((axis) => step[axis] !== 0).map((axis) => `${axis} ${mm(step[axis], 1)}°`);
    return [...angles, ...(step.mirror === "none" ? [] : ["mirrored"])].join(", ") || (step.drop ? "set down" : "");
  },
  Editor: TurnEditor,
};
