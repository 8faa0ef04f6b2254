import { NumberField } from "../../../shared/NumberField";

type Place = readonly [number, number] | null | undefined;

interface Props {
  label: string;
  place: Place;
  onChange: (place: [number, number], resting: boolean) => void;
}

/** A place in the picture in numbers, beside clicking it: pixels of the picture brought in. */
export function PlaceFields({ label, place, onChange }: Props) {
  if (!place) return null;
  const [x, y] = place;
  return (
    <div className="two-fields">
      <NumberField
        label={`${label}, across`}
        unit="px"
        slider={false}
        value={x}
        range={[-1e6, 1e6]}
        step={1}
        onChange={(value, r) => onChange([value, y], r)}
      />
      <NumberField label={`${label}, down`} unit="px" slider={false} value={y} range={[-1e6, 1e6]} step={1} onChange={(value, r) => onChange([x, value], r)} />
    </div>
  );
}
