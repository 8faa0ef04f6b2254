import { useId } from "react";
import { ToggleButton, ToggleButtonGroup } from "react-bootstrap";

interface Props<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  help?: string;
  onChange: (value: T) => void;
}

/** One of a few, all of them in sight. */
export function Choice<T extends string>({ label, value, options, help, onChange }: Props<T>) {
  const name = useId();
  return (
    <div className="field">
      <div className="field-label mb-1" id={`${name}-label`}>
        {label}
      </div>
      <ToggleButtonGroup
        type="radio"
        name={name}
        className="choice w-100"
        value={value}
        aria-labelledby={`${name}-label`}
        onChange={(next: T) => onChange(next)}
      >
        {options.map(([key, words]) => (
          <ToggleButton key={key} id={`${name}-${key}`} value={key} variant="outline-dark" size="sm">
            {words}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {help && <div className="field-help">{help}</div>}
    </div>
  );
}
