import { type KeyboardEvent, useEffect, useId, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { api, detailOf, type Length, take } from "../api/client";
import { mm } from "./format";
import { useUnits } from "./units";

interface Props {
  label: string;
  help?: string;
  value: Length;
  /** Range and step of the slider and the arrow keys, mm; typing may go beyond. */
  range: [number, number];
  step: number;
  slider?: boolean;
  /** `resting` is false while a slider still moves. */
  onChange: (value: Length, resting: boolean) => void;
}

const shown = (value: Length) => value.text ?? `${mm(value.mm, 3)} mm`;
const typedElsewise = (value: Length) => value.text && !/^[\d.,\s]+(mm)?$/.test(value.text);

/** A length: typed with any unit or as a sum, nudged with the arrow keys, or dragged. */
export function LengthField({ label, help, value, range, step, slider, onChange }: Props) {
  const id = useId();
  const [text, setText] = useState(shown(value));
  const [refused, setRefused] = useState<string>();

  const outside = shown(value);
  const typing = useRef(false);
  // A value that came from elsewhere (undo, another field) clears an old refusal, but never
  // what is being typed.
  useEffect(() => {
    if (typing.current) return;
    setRefused(undefined);
    setText(outside);
  }, [outside]);

  async function commit() {
    typing.current = false;
    if (text.trim() === shown(value)) {
      setRefused(undefined);
      return;
    }
    try {
      const length = await take(api.POST("/api/length", { body: { text, ...useUnits.getState() } }));
      setRefused(undefined);
      const plain = /^[\d.,]+$/.test(length.text);
      onChange({ mm: length.mm, text: plain ? `${length.text} mm` : length.text }, true);
    } catch (failure) {
      const { why, remedy } = detailOf(failure);
      setRefused(`${why}. ${remedy}.`);
    }
  }

  function nudge(event: KeyboardEvent) {
    if (event.key === "Enter") void commit();
    if (event.key === "Escape") {
      typing.current = false;
      setText(shown(value));
      setRefused(undefined);
    }
    if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return;
    event.preventDefault();
    const way = (event.key === "ArrowUp" ? 1 : -1) * step * (event.shiftKey ? 10 : 1);
    const next = Math.min(range[1], Math.max(range[0], Number((value.mm + way).toFixed(4))));
    onChange({ mm: next }, false);
  }

  return (
    <div className="field">
      <div className="field-row">
        <label htmlFor={id}>{label}</label>
        <Form.Control
          id={id}
          className="length-input mono"
          value={text}
          spellCheck={false}
          autoComplete="off"
          isInvalid={Boolean(refused)}
          aria-describedby={`${id}-help`}
          onFocus={(event) => event.target.select()}
          onChange={(event) => {
            typing.current = true;
            setText(event.target.value);
          }}
          onBlur={() => void commit()}
          onKeyDown={nudge}
        />
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
        {refused && <div className="field-error">{refused}</div>}
        {!refused && typedElsewise(value) && (
          <div className="field-help mono">= {mm(value.mm, 3)} mm</div>
        )}
        {help && <div className="field-help">{help}</div>}
      </div>
    </div>
  );
}
