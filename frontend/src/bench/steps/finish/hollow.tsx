import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { Changed } from "./Changed";
import type { Editing, Finishing } from "./finishing";

function HollowEditor(props: Editing<"hollow">) {
  const { step, set } = props;
  return (
    <>
      <LengthField
        label="Wall"
        help="How thick the wall stays; outside nothing changes."
        value={step.wall}
        range={[0.4, 10]}
        limits={[0.1, 100]}
        step={0.1}
        slider
        onChange={(wall, r) => set({ wall }, r)}
      />
      <NumberField
        label="Drain holes"
        help="Straight down from where the hollow is lowest."
        value={step.drains}
        range={[0, 12]}
        step={1}
        slider={false}
        onChange={(drains, r) => set({ drains: Math.round(drains) }, r)}
      />
      {step.drains > 0 && (
        <LengthField label="Hole, wide" value={step.drain} range={[1, 10]} limits={[0.2, 200]} step={0.5} onChange={(drain, r) => set({ drain }, r)} />
      )}
      <Changed {...props} />
    </>
  );
}

export const hollow: Finishing<"hollow"> = {
  name: "Hollow",
  purpose: "a wall of one thickness, less material",
  also: "shell, offset inwards",
  group: "Shape",
  figure: (step) => `${mm(step.wall.mm, 2)} mm wall`,
  Editor: HollowEditor,
};
