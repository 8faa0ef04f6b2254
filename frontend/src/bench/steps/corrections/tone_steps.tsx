import { Choice } from "../../../shared/Choice";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import { usePieceStore } from "../../pieceStore";
import { count } from "./words";
import type { CorrectionStep, Editing } from "./correction";

function ToneStepsEditor({ step, set }: Editing<"tone_steps">) {
  const { tool, setTool } = usePieceStore();
  return (
    <>
      <Choice
        label="Tones"
        value={tool === "pick" || step.tones.length ? "picked" : "found"}
        options={[
          ["found", "found"],
          ["picked", "picked"],
        ]}
        onChange={(way) => {
          setTool(way === "picked" ? "pick" : "none");
          if (way === "found") set({ tones: [] });
        }}
      />
      {tool === "pick" || step.tones.length ? (
        <>
          <div className="swatches">
            {step.tones.map((tone, index) => (
              <button
                key={`${tone}-${index}`}
                type="button"
                className="swatch"
                title={`${tone}: take away`}
                aria-label={`Tone ${tone}, take away`}
                style={{ background: `rgb(${[0, 1, 2].map(() => Math.round(tone * 255)).join(",")})` }}
                onClick={() => set({ tones: step.tones.filter((_, other) => other !== index) })}
              />
            ))}
          </div>
          <p className="field-help">Click a spot in the picture to pick its tone; click a swatch to drop it.</p>
        </>
      ) : (
        <NumberField label="How many" value={step.count} range={[2, 16]} step={1} onChange={(count, r) => set({ count: Math.round(count) }, r)} />
      )}
      <Switch label="Clean borders" value={step.clean} onChange={(clean) => set({ clean })} />
    </>
  );
}

export const toneSteps: CorrectionStep<"tone_steps"> = {
  name: "Tone steps",
  purpose: "a few flat tones with clean borders",
  also: "posterise, posterize, quantise",
  group: "Tones",
  figure: (step) => count(step.tones.length || step.count, "tone"),
  Editor: ToneStepsEditor,
  tools: {
    pick: { by: "click", done: (step, { tone }) => ({ part: { tones: [...step.tones, tone()].sort((a, b) => a - b) } }) },
  },
};
