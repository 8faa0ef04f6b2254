import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { Changed } from "./Changed";
import type { Editing, Finishing } from "./finishing";

function ThickenEditor(props: Editing<"thicken">) {
  const { step, set } = props;
  return (
    <>
      <LengthField
        label="Thickness"
        help="Behind the side that its faces look to; below 0 in front of it."
        value={step.thick}
        range={[-10, 10]}
        limits={[-50, 50]}
        step={0.1}
        slider
        onChange={(thick, r) => set({ thick }, r)}
      />
      <Changed {...props} />
    </>
  );
}

export const thicken: Finishing<"thicken"> = {
  name: "Thicken",
  purpose: "an open surface becomes a solid",
  also: "shell, solidify, extrude",
  group: "Mend",
  figure: (step) => `${mm(step.thick.mm, 2)} mm`,
  Editor: ThickenEditor,
};
