import { Choice } from "../../../shared/Choice";
import { BrushFields } from "./BrushFields";
import { Changed } from "./Changed";
import type { Editing, Finishing } from "./finishing";

function PushEditor(props: Editing<"push">) {
  const { step, set } = props;
  return (
    <>
      <Choice
        label="The brush"
        value={step.way}
        options={[
          ["out", "pushes out"],
          ["in", "presses in"],
        ]}
        help="As far as its strength says in its middle, softly towards its edge."
        onChange={(way) => set({ way })}
      />
      <BrushFields {...props} />
      <Changed {...props} near />
    </>
  );
}

export const push: Finishing<"push"> = {
  name: "Push or press",
  purpose: "the surface moved out or in, under a brush",
  also: "sculpt, inflate, draw",
  group: "Shape",
  figure: ({ way, strokes }) => `${way}, ${strokes.length} stroke${strokes.length === 1 ? "" : "s"}`,
  near: true,
  Editor: PushEditor,
};
