import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import { Form } from "react-bootstrap";

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
  const shown = String(Number(value.toFixed(4)));
  const [text, setText] = useState(shown);
  const [refused, setRefused] = useState(false);
  const typing = useRef(false);
  useEffect(() => {
    if (typing.current) return;
    setText(shown);
    setRefused(false);
  }, [shown]);
  const within = (number: number) => Math.min(range[1], Math.max(range[0], Number(number.toFixed(6))));

  function commit() {
    typing.current = false;
    const typed = Number(text.replace(",", ".").replace(unit ?? "", "").trim());
    const fits = text.trim() !== "" && Number.isFinite(typed) && within(typed) === Number(typed.toFixed(6));
    setRefused(!fits);
    if (fits && typed !== Number(shown)) onChange(typed, true);
  }

  function nudge(event: KeyboardEvent) {
    if (event.key === "Enter") commit();
    if (event.key === "Escape") {
      typing.current = false;
      setText(shown);
      setRefused(false);
    }
    if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return;
    event.preventDefault();
    const way = (event.key === "ArrowUp" ? 1 : -1) * step * (event.shiftKey ? 10 : 1);
    onChange(within(value + way), false);
  }

  return (
    <div className="field">
      <div className="field-row">
        <label htmlFor={id}>{label}</label>
        <div className="number-input">
          <Form.Control
            id={id}
            className="mono"
            value={text}
            inputMode="decimal"
            autoComplete="off"
            isInvalid={refused}
            aria-describedby={`${id}-help`}
            onFocus={(event) => event.target.select()}
            onChange={(event) => {
              typing.current = true;
              setText(event.target.value);
            }}
            onBlur={commit}
            onKeyDown={nudge}
          />
          {unit && <span className="quiet">{unit}</span>}
        </div>
      </div>
      {slider && (
        <Form.Range
          aria-label={`${label}, slider`}
          min={range[0]}
          max={range[1]}
          step={step}
          value={value}
          onChange={(event) => onChange(Number(event.target.value), false)}
        />
      )}
      <div id={`${id}-help`}>
        {refused && (
          <div className="field-error">
            Type a number from {range[0]} to {range[1]}.
          </div>
        )}
        {help && <div className="field-help">{help}</div>}
      </div>
    </div>
  );
}
