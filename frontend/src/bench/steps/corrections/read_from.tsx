import { Form } from "react-bootstrap";
import { Choice } from "../../../shared/Choice";
import { ToneField } from "./ToneField";
import type { CorrectionStep, Editing } from "./correction";

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
  `#${colour
    .map((v) =>
      Math.round(v * 255)
        .toString(16)
        .padStart(2, "0"),
    )
    .join("")}`;

function ReadFromEditor({ step, set }: Editing<"read_from">) {
  return (
    <>
      <div className="field field-row">
        <label htmlFor="read-channel">Tone is</label>
        <Form.Select
          id="read-channel"
          size="sm"
          className="w-auto"
          value={step.channel}
          onChange={(event) => set({ channel: event.target.value as typeof step.channel })}
        >
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
      {step.transparent === "tone" && step.channel !== "alpha" && <ToneField label="Tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />}
    </>
  );
}

export const readFrom: CorrectionStep<"read_from"> = {
  name: "Read from",
  purpose: "which colour is the tone; what transparent means",
  also: "channel, grayscale, alpha",
  group: "Tones",
  figure: (step) => step.channel,
  Editor: ReadFromEditor,
  tools: {
    pick: {
      by: "click",
      done: (_, { colour }) => {
        const found = colour();
        return found && { part: { colour: found } };
      },
    },
  },
};
