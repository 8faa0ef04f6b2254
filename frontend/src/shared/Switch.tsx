import { Form } from "react-bootstrap";

interface Props {
  label: string;
  value: boolean;
  onChange: (value: boolean) => void;
}

/** On or off. */
export function Switch({ label, value, onChange }: Props) {
  return (
    <Form.Check
      type="switch"
      className="field"
      label={label}
      id={`switch-${label.replaceAll(" ", "-")}`}
      checked={value}
      onChange={(event) => onChange(event.target.checked)}
    />
  );
}
