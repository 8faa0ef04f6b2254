import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import type { Editing, FittingStep } from "./fitting";

function HandleEditor({ step, set }: Editing<"handle">) {
  return (
    <>
      <Choice
        label="Kind"
        value={step.shape}
        options={[
          ["bar", "bar"],
          ["knob", "knob"],
        ]}
        onChange={(shape) => set({ shape })}
      />
      <LengthField label={step.shape === "bar" ? "Length" : "Across"} value={step.wide} range={[4, 120]} step={1} onChange={(wide, r) => set({ wide }, r)} />
      {step.shape === "bar" && <LengthField label="Thickness" value={step.thick} range={[2, 40]} step={0.5} onChange={(thick, r) => set({ thick }, r)} />}
      <LengthField label="Height" value={step.high} range={[2, 80]} step={1} onChange={(high, r) => set({ high }, r)} />
    </>
  );
}

export const handle: FittingStep<"handle"> = {
  name: "Handle",
  purpose: "to press or hold it by",
  figure: (step) => `${step.shape}, ${mm(step.high.mm)} mm high`,
  Editor: HandleEditor,
};
