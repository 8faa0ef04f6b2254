import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { length } from "./words";
import type { CorrectionStep, Editing } from "./correction";

function ThickenEditor({ step, set }: Editing<"thicken">) {
  return (
    <>
      <Choice
        label="Lines"
        value={step.tones}
        options={[
          ["dark", "dark"],
          ["light", "light"],
        ]}
        onChange={(tones) => set({ tones })}
      />
      {step.at_least ? (
        <LengthField label="Thinnest becomes" value={step.at_least} range={[0.05, 10]} step={0.05} slider onChange={(at_least, r) => set({ at_least }, r)} />
      ) : (
        <LengthField
          label="Wider by"
          value={step.by}
          range={[-3, 3]}
          step={0.05}
          slider
          help="Below 0 makes them thinner."
          onChange={(by, r) => set({ by }, r)}
        />
      )}
      <Button size="sm" variant="plain" onClick={() => set(step.at_least ? { at_least: null } : { at_least: { mm: 0.84, text: "2 lines" } })}>
        {step.at_least ? "By a width instead" : "Just enough for two nozzle lines"}
      </Button>
    </>
  );
}

export const thicken: CorrectionStep<"thicken"> = {
  name: "Thicken lines",
  purpose: "wider or thinner dark or light lines",
  also: "dilate, erode, bold, stroke",
  group: "Cleaning",
  figure: (step) => (step.at_least ? `to ${length(step.at_least)}` : length(step.by)),
  Editor: ThickenEditor,
};
