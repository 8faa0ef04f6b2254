import { Changed } from "./Changed";
import type { Editing, Finishing } from "./finishing";

function RepairEditor(props: Editing<"repair">) {
  return (
    <>
      <p className="field-help">
        Holes are filled, what looks the wrong way is turned, doubles and fins go, what passes through itself is taken
        out and closed. What was whole stays, face by face.
      </p>
      <Changed {...props} near />
    </>
  );
}

export const repair: Finishing<"repair"> = {
  name: "Repair",
  purpose: "closed, looking outwards, each part once",
  group: "Mend",
  figure: (step, { done }) => {
    const figures = done.get(step.id);
    return figures && !figures.error ? (figures.after.manifold ? "closed" : "open") : "";
  },
  near: true,
  Editor: RepairEditor,
};
