import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import { Places } from "../../picture/grips";
import { Tools } from "./tools";
import { middle, tone } from "./words";
import { ToneField } from "./ToneField";
import type { CorrectionStep, Editing, Handling } from "./correction";

function FillEditor({ step, set }: Editing<"fill">) {
  return (
    <>
      <Tools options={[["pick", "click an area"]]} />
      <ToneField label="Tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />
      <NumberField label="Tolerance" value={step.tolerance} range={[0.005, 0.6]} step={0.005} onChange={(tolerance, r) => set({ tolerance }, r)} />
      <Switch label="Connected only" value={step.contiguous} onChange={(contiguous) => set({ contiguous })} />
    </>
  );
}

const FillHandles = ({ step, frame }: Handling<"fill">) => <Places places={[step.at]} frame={frame} />;

export const fill: CorrectionStep<"fill"> = {
  name: "Fill",
  purpose: "give an area of like tone another tone",
  also: "bucket",
  group: "Parts",
  figure: (step) => `to ${tone(step.tone)}`,
  fresh: (context) => ({ at: middle(context) }),
  Editor: FillEditor,
  Handles: FillHandles,
  firstTool: "pick",
  tools: { pick: { by: "click", done: (_, { place }) => ({ part: { at: place } }) } },
};
