import { tone } from "./words";
import { ToneField } from "./ToneField";
import type { CorrectionStep, Editing } from "./correction";

function EvenLightEditor({ step, set }: Editing<"even_light">) {
  return <ToneField label="Background becomes" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />;
}

export const evenLight: CorrectionStep<"even_light"> = {
  name: "Even light",
  purpose: "one tone for an unevenly lit background",
  also: "background, shading",
  group: "Tones",
  figure: (step) => `to ${tone(step.tone)}`,
  Editor: EvenLightEditor,
};
