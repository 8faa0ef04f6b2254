import { NumberField } from "../../../shared/NumberField";
import { Changed } from "./Changed";
import type { Editing, Finishing } from "./finishing";

function SmoothEditor(props: Editing<"smooth">) {
  const { step, set } = props;
  return (
    <>
      <NumberField label="Rounds" help="More rounds calm wider ripples. It encloses as much as before." value={step.rounds} range={[1, 100]} step={1} onChange={(rounds, r) => set({ rounds: Math.round(rounds) }, r)} />
      <Changed {...props} near />
    </>
  );
}

export const smooth: Finishing<"smooth"> = {
  name: "Smooth",
  purpose: "calmed without shrinking",
  group: "Shape",
  figure: (step) => `${step.rounds}×`,
  near: true,
  Editor: SmoothEditor,
};
