import { useId } from "react";
import { Form } from "react-bootstrap";
import { FieldRefusal } from "./FieldRefusal";
import { handOn } from "./handOn";
import { useTyped } from "./useTyped";

interface Props {
  label: string;
  help?: string;
  value: number;
  range: [number, number];
  step: number;
  unit?: string;
  slider?: boolean;
  /** `resting` is false while a slider still moves. */
  onChange: (value: number, resting: boolean) => void;
}

/** A plain number: a tone, a count, an angle. Lengths have a field of their own. */
export function NumberField({ label, help, value, range, step, unit, slider = true, onChange }: Props) {
  const id = useId();
  const [low, high] = range;
  const within = (number: number) => Math.min(high, Math.max(low, Number(number.toFixed(6))));
  const { refusal, takeNearest, props } = useTyped<{ mm: number }>({
    label,
    shown: String(Number(value.toFixed(4))),
    read: (text) => {
      const plain = text
        .replace(",", ".")
        .replace(unit ?? "", "")
        .trim();
      const typed = Number(plain);
      const words = `Type a number from ${low} to ${high}`;
      if (plain === "" || !Number.isFinite(typed)) return { text: `“${text.trim()}” is not a number. ${words}.` };
      if (within(typed) === Number(typed.toFixed(6))) return { mm: typed };
      return { text: `${words}.`, nearest: String(within(typed)) };
    },
    give: (typed, refused) => handOn({ refused }, () => onChange(typed.mm, true)),
    nudge: (typed, steps) => onChange(within((typed?.mm ?? value) + steps * step), false),
  });

  return (
    <div className="field">
      <div className="field-row">
        <label htmlFor={id}>{label}</label>
        <div className="number-input">
          <Form.Control id={id} className="mono" inputMode="decimal" aria-describedby={`${id}-help`} {...props} />
          {unit && <span className="quiet">{unit}</span>}
        </div>
      </div>
      {slider && (
        <Form.Range
          aria-label={`${label}, slider`}
          min={low}
          max={high}
          step={step}
          value={value}
          onChange={(event) => onChange(Number(event.target.value), false)}
        />
      )}
      <div id={`${id}-help`}>
        <FieldRefusal refusal={refusal} takeNearest={takeNearest} />
        {help && <div className="field-help">{help}</div>}
      </div>
    </div>
  );
}
