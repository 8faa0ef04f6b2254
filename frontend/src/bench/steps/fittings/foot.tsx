import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import type { Editing, FittingStep } from "./fitting";

function FootEditor({ step, set }: Editing<"foot">) {
  return (
    <>
      <NumberField label="Share of the width" value={step.wide} range={[0.1, 1]} step={0.05} onChange={(wide, r) => set({ wide }, r)} />
      <LengthField label="To the front" value={step.front} range={[1, 80]} step={1} slider onChange={(front, r) => set({ front }, r)} />
      <LengthField label="To the back" value={step.back} range={[1, 80]} step={1} slider onChange={(back, r) => set({ back }, r)} />
      <LengthField label="Thickness" value={step.thick} range={[0.6, 10]} step={0.1} onChange={(thick, r) => set({ thick }, r)} />
    </>
  );
}

export const foot: FittingStep<"foot"> = {
  name: "Foot",
  purpose: "makes it stand",
  figure: (step) => `${mm(step.front.mm + step.back.mm)} mm deep`,
  Editor: FootEditor,
};
