import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import type { Editing } from "../editing";

export function SmoothEditor({ step, set }: Editing<"smooth">) {
  return (
    <>
      <Choice
        label="How"
        value={step.method}
        options={[
          ["edge_keeping", "keeping edges"],
          ["gaussian", "evenly"],
          ["median", "median"],
        ]}
        onChange={(method) => set({ method })}
      />
      <LengthField label="Radius" value={step.radius} range={[0, 5]} step={0.05} slider onChange={(radius, r) => set({ radius }, r)} />
      {step.method === "edge_keeping" && (
        <NumberField label="Keep steps above" value={step.keep} range={[0.01, 0.6]} step={0.01} help="A step in tone larger than this stays sharp." onChange={(keep, r) => set({ keep }, r)} />
      )}
    </>
  );
}

export function DespeckleEditor({ step, set }: Editing<"despeckle">) {
  return (
    <>
      <NumberField label="Specks up to" unit="mm²" value={step.area} range={[0, 20]} step={0.05} onChange={(area, r) => set({ area }, r)} />
      <Choice
        label="Which"
        value={step.specks}
        options={[
          ["both", "both"],
          ["dark", "dark"],
          ["light", "light"],
        ]}
        onChange={(specks) => set({ specks })}
      />
      <NumberField label="Standing out by" value={step.contrast} range={[0.02, 0.6]} step={0.01} onChange={(contrast, r) => set({ contrast }, r)} />
    </>
  );
}

export function ThickenEditor({ step, set }: Editing<"thicken">) {
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
        <LengthField label="Wider by" value={step.by} range={[-3, 3]} step={0.05} slider help="Below 0 makes them thinner." onChange={(by, r) => set({ by }, r)} />
      )}
      <Button size="sm" variant="plain" onClick={() => set(step.at_least ? { at_least: null } : { at_least: { mm: 0.84, text: "2 lines" } })}>
        {step.at_least ? "By a width instead" : "Just enough for two nozzle lines"}
      </Button>
    </>
  );
}
