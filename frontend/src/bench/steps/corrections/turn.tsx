import { Choice } from "../../../shared/Choice";
import { NumberField } from "../../../shared/NumberField";
import { ToneField } from "./ToneField";
import type { CorrectionStep, Editing } from "./correction";

function TurnEditor({ step, set }: Editing<"turn">) {
  return (
    <>
      <Choice
        label="Quarter turns, to the left"
        value={String(step.quarters)}
        options={[
          ["0", "none"],
          ["1", "90°"],
          ["2", "180°"],
          ["3", "270°"],
        ]}
        onChange={(quarters) => set({ quarters: Number(quarters) })}
      />
      <NumberField label="Straighten" unit="°" value={step.degrees} range={[-45, 45]} step={0.1} onChange={(degrees, r) => set({ degrees }, r)} />
      {step.degrees !== 0 && (
        <Choice
          label="Empty corners"
          value={step.corners}
          options={[
            ["trim", "cut off"],
            ["fill", "filled"],
          ]}
          onChange={(corners) => set({ corners })}
        />
      )}
      {step.degrees !== 0 && step.corners === "fill" && <ToneField label="Corner tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />}
    </>
  );
}

export const turn: CorrectionStep<"turn"> = {
  name: "Turn",
  purpose: "quarter turns and straightening",
  also: "rotate, straighten",
  group: "Frame",
  figure: (step) => `${step.quarters * 90 + step.degrees}°`,
  fresh: () => ({ quarters: 1 }),
  Editor: TurnEditor,
  framing: true,
};
