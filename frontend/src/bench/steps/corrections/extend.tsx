import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { length } from "./words";
import { ToneField } from "./ToneField";
import type { CorrectionStep, Editing } from "./correction";

const SIDES = ["left", "right", "top", "bottom"] as const;

function ExtendEditor({ step, set }: Editing<"extend">) {
  const even = SIDES.every((side) => step[side].mm === step.left.mm);
  return (
    <>
      <Choice
        label="Measured in"
        value={step.percent == null ? "mm" : "percent"}
        options={[
          ["mm", "mm"],
          ["percent", "percent"],
        ]}
        onChange={(unit) => set({ percent: unit === "mm" ? null : 5 })}
      />
      {step.percent != null ? (
        <NumberField label="All around" unit="%" value={step.percent} range={[0, 100]} step={0.5} onChange={(percent, r) => set({ percent }, r)} />
      ) : (
        <>
          <LengthField
            label="All around"
            value={even ? step.left : { mm: step.left.mm }}
            range={[0, 50]}
            step={0.5}
            slider
            onChange={(value, r) => set({ left: value, right: value, top: value, bottom: value }, r)}
          />
          {SIDES.map((side) => (
            <LengthField
              key={side}
              label={side[0].toUpperCase() + side.slice(1)}
              value={step[side]}
              range={[0, 500]}
              step={0.5}
              onChange={(value, r) => set({ [side]: value }, r)}
            />
          ))}
        </>
      )}
      <ToneField label="Tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />
    </>
  );
}

export const extend: CorrectionStep<"extend"> = {
  name: "Extend",
  purpose: "more canvas around, for a rim",
  also: "canvas, pad, border",
  group: "Frame",
  figure: (step) =>
    step.percent != null
      ? `${mm(step.percent)} %`
      : [step.left, step.right, step.top, step.bottom].every((s) => s.mm === step.left.mm)
        ? length(step.left)
        : "uneven",
  fresh: () => {
    const side = { mm: 3 };
    return { left: side, right: side, top: side, bottom: side };
  },
  Editor: ExtendEditor,
  framing: true,
};
