import { Form } from "react-bootstrap";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import type { Editing } from "../editing";
import { usePictureStore } from "../pictureStore";
import { ToneField } from "./ToneField";

export function ContrastEditor({ step, set }: Editing<"contrast">) {
  return <NumberField label="Contrast" value={step.amount} range={[-1, 1]} step={0.02} onChange={(amount, r) => set({ amount }, r)} />;
}

export function LocalContrastEditor({ step, set }: Editing<"local_contrast">) {
  return (
    <>
      <NumberField label="Strength" value={step.amount} range={[-1, 4]} step={0.05} help="Below 0 details recede." onChange={(amount, r) => set({ amount }, r)} />
      <LengthField label="Details up to" value={step.radius} range={[0.1, 20]} step={0.1} slider onChange={(radius, r) => set({ radius }, r)} />
    </>
  );
}

export function ExposureEditor({ step, set }: Editing<"exposure">) {
  return <NumberField label="Light" unit="stops" value={step.stops} range={[-4, 4]} step={0.05} help="One stop is twice the light." onChange={(stops, r) => set({ stops }, r)} />;
}

export function EvenLightEditor({ step, set }: Editing<"even_light">) {
  return <ToneField label="Background becomes" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />;
}

const CHANNELS = [
  ["luminance", "brightness"],
  ["lightness", "lightness (Lab)"],
  ["red", "red"],
  ["green", "green"],
  ["blue", "blue"],
  ["alpha", "transparency (alpha)"],
  ["hue", "distance to a hue"],
] as const;

const hex = (colour: readonly number[]) =>
  `#${colour.map((v) => Math.round(v * 255).toString(16).padStart(2, "0")).join("")}`;

export function ReadFromEditor({ step, set }: Editing<"read_from">) {
  return (
    <>
      <div className="field field-row">
        <label htmlFor="read-channel">Tone is</label>
        <Form.Select id="read-channel" size="sm" className="w-auto" value={step.channel} onChange={(event) => set({ channel: event.target.value as typeof step.channel })}>
          {CHANNELS.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </Form.Select>
      </div>
      {step.channel === "hue" && (
        <div className="field field-row">
          <label htmlFor="read-hue">Picked hue</label>
          <Form.Control
            id="read-hue"
            type="color"
            className="form-control-color"
            value={hex(step.colour)}
            onChange={(event) => {
              const value = event.target.value;
              const part = (at: number) => Number((parseInt(value.slice(at, at + 2), 16) / 255).toFixed(4));
              set({ colour: [part(1), part(3), part(5)] }, false);
            }}
          />
        </div>
      )}
      {step.channel !== "alpha" && (
        <Choice
          label="Transparent"
          value={step.transparent}
          options={[
            ["cut", "not part of it"],
            ["tone", "becomes a tone"],
          ]}
          onChange={(transparent) => set({ transparent })}
        />
      )}
      {step.transparent === "tone" && step.channel !== "alpha" && (
        <ToneField label="Tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />
      )}
    </>
  );
}

export function ToneStepsEditor({ step, set }: Editing<"tone_steps">) {
  const { tool, setTool } = usePictureStore();
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

export function ThresholdEditor({ step, set }: Editing<"threshold">) {
  return (
    <>
      <Choice
        label="Level"
        value={step.method}
        options={[
          ["otsu", "found"],
          ["manual", "by hand"],
          ["local", "local"],
        ]}
        help={
          step.method === "otsu"
            ? "Otsu's: parts dark from light with the least spread in each."
            : step.method === "local"
              ? "Compared with what is around: for unevenly lit scans."
              : undefined
        }
        onChange={(method) => set({ method })}
      />
      {step.method === "manual" && <ToneField label="White from" value={step.level} onChange={(level, r) => set({ level }, r)} />}
      {step.method === "local" && (
        <>
          <LengthField label="Around" value={step.radius} range={[0.2, 30]} step={0.2} slider onChange={(radius, r) => set({ radius }, r)} />
          <NumberField label="Darker by" value={step.offset} range={[-0.2, 0.4]} step={0.01} onChange={(offset, r) => set({ offset }, r)} />
        </>
      )}
    </>
  );
}
