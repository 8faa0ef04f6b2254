import { useId } from "react";
import { Form } from "react-bootstrap";
import type { FinishStep } from "../../../api/client";
import { Choice } from "../../../shared/Choice";
import { Changed } from "./Changed";
import type { Editing, Finishing } from "./finishing";

export type Fault = Extract<FinishStep, { kind: "repair" }>["only"][number];

const FAULTS: [Fault, string][] = [
  ["doubles", "doubles, and faces without an area"],
  ["gaps", "gaps between borders"],
  ["fins", "fins that hang on an edge"],
  ["flipped", "faces that look the wrong way"],
  ["holes", "holes"],
  ["crossings", "faces that cross each other"],
  ["inside", "bodies inside others"],
];

function RepairEditor(props: Editing<"repair">) {
  const { step, set } = props;
  const some = step.only.length > 0;
  return (
    <>
      <Choice
        label="Mend"
        value={some ? "some" : "all"}
        options={[
          ["all", "everything"],
          ["some", "some faults"],
        ]}
        help={some ? "In this order; whatever else there is stays as it is, open where it is open." : "Until it is closed. What was whole stays, face by face."}
        onChange={(what) => set({ only: what === "all" ? [] : ["holes"] })}
      />
      {some && (
        <fieldset className="field">
          <legend className="visually-hidden">Faults that are mended</legend>
          {FAULTS.map(([fault, words]) => (
            <Tick
              key={fault}
              label={words}
              on={step.only.includes(fault)}
              only={step.only.length === 1}
              set={(on) => set({ only: FAULTS.map(([one]) => one).filter((one) => (one === fault ? on : step.only.includes(one))) })}
            />
          ))}
        </fieldset>
      )}
      <Changed {...props} near />
    </>
  );
}

interface TickProps {
  label: string;
  on: boolean;
  /** The last one that is on stays on. */
  only: boolean;
  set: (on: boolean) => void;
}

function Tick({ label, on, only, set }: TickProps) {
  const id = useId();
  return <Form.Check id={id} label={label} checked={on} disabled={on && only} onChange={(event) => set(event.target.checked)} />;
}

export const repair: Finishing<"repair"> = {
  name: "Repair",
  purpose: "closed, looking outwards, each part once; or some faults alone",
  also: "fix, manifold, holes",
  group: "Mend",
  figure: (step, { done }) => {
    const figures = done.get(step.id);
    return figures && !figures.error ? (figures.after.manifold ? "closed" : "open") : "";
  },
  near: true,
  Editor: RepairEditor,
};
