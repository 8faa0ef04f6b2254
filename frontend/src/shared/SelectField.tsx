import { useId } from "react";
import { Form } from "react-bootstrap";

interface Props<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
}

/** One of several, in a list that unfolds. */
export function SelectField<T extends string>({ label, value, options, onChange }: Props<T>) {
  const id = useId();
  return (
    <div className="field field-row">
      <label htmlFor={id}>{label}</label>
      <Form.Select id={id} className="w-auto mw-select" value={value} onChange={(event) => onChange(event.target.value as T)}>
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </Form.Select>
    </div>
  );
}
