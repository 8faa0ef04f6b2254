import { useId } from "react";
import { Form } from "react-bootstrap";
import { api, detailOf, type Length, take } from "../api/client";
import { FieldRefusal } from "./FieldRefusal";
import { mm } from "./format";
import { handOn } from "./handOn";
import { useUnits } from "./units";
import { asRefusal, type TypedRefusal, useTyped } from "./useTyped";

interface Props {
  label: string;
  help?: string;
  value: Length;
  /** What the slider and the arrow keys reach, mm. */
  range: [number, number];
  /** What may be typed, mm; left out, the core says what works. */
  limits?: [number, number];
  step: number;
  slider?: boolean;
  /** `resting` is false while a slider still moves. */
  onChange: (value: Length, resting: boolean) => void;
}

const shown = (value: Length) => value.text ?? `${mm(value.mm, 3)} mm`;
const typedElsewise = (value: Length) => value.text && !/^[\d.,\s]+(mm)?$/.test(value.text);
const PLAIN = /^(-?\d*[.,]?\d+)\s*(mm)?$/;

/** A typed length in mm: plain millimetres at once, anything else as the core reads it. */
async function read(text: string): Promise<Length | TypedRefusal> {
  const plain = PLAIN.exec(text.trim());
  if (plain) return { mm: Number(plain[1].replace(",", ".")), text: `${plain[1]} mm` };
  try {
    return await take(api.POST("/api/length", { body: { text, ...useUnits.getState() } }));
  } catch (failure) {
    return asRefusal(detailOf(failure));
  }
}

/** A length: typed with any unit or as a sum, nudged with the arrow keys, or dragged. */
export function LengthField({ label, help, value, range, limits, step, slider, onChange }: Props) {
  const id = useId();
  const reach = (length: number) => Math.min(range[1], Math.max(range[0], Number(length.toFixed(4))));
  const { refusal, takeNearest, props } = useTyped<Length>({
    label,
    shown: shown(value),
    read: async (text) => {
      const found = await read(text);
      if (!("mm" in found) || !limits || (found.mm >= limits[0] && found.mm <= limits[1])) return found;
      const nearest = found.mm < limits[0] ? limits[0] : limits[1];
      return {
        text: `${mm(found.mm, 3)} mm is outside ${mm(limits[0], 3)} to ${mm(limits[1], 3)} mm; the nearest that works is ${mm(nearest, 3)} mm.`,
        nearest: `${nearest} mm`,
      };
    },
    give: (length, refused) => handOn({ refused }, () => onChange(length, true)),
    nudge: (typed, steps) => onChange({ mm: reach((typed?.mm ?? value.mm) + steps * step) }, false),
  });

  return (
    <div className="field">
      <div className="field-row">
        <label htmlFor={id}>{label}</label>
        <Form.Control id={id} className="length-input mono" aria-describedby={`${id}-help`} {...props} />
      </div>
      {slider && (
        <Form.Range
          aria-label={`${label}, slider`}
          min={range[0]}
          max={range[1]}
          step={step}
          value={value.mm}
          onChange={(event) => onChange({ mm: Number(event.target.value) }, false)}
        />
      )}
      <div id={`${id}-help`}>
        <FieldRefusal refusal={refusal} takeNearest={takeNearest} />
        {!refusal && typedElsewise(value) && <div className="field-help mono">= {mm(value.mm, 3)} mm</div>}
        {help && <div className="field-help">{help}</div>}
      </div>
    </div>
  );
}
