import { NumberField } from "../../../shared/NumberField";

interface Props {
  label: string;
  value: number;
  help?: string;
  onChange: (value: number, resting: boolean) => void;
}

/** A tone, 0 black to 1 white, beside a swatch of it. */
export function ToneField({ label, value, help, onChange }: Props) {
  const gray = Math.round(value * 255);
  return (
    <div className="tone-field">
      <span className="swatch" style={{ background: `rgb(${gray},${gray},${gray})` }} aria-hidden="true" />
      <NumberField label={label} value={value} range={[0, 1]} step={0.005} help={help} onChange={onChange} />
    </div>
  );
}
