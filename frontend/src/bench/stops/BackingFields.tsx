import type { Art } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { LengthField } from "../../shared/LengthField";
import { NumberField } from "../../shared/NumberField";
import { SelectField } from "../../shared/SelectField";

type Edge = Art["edge"];

const KINDS = [
  ["rectangle", "as large as the picture"],
  ["plate", "a plate around the shape"],
  ["circle", "a round around the shape"],
  ["polygon", "a polygon around the shape"],
  ["along", "along the shape"],
] as const;

interface Props {
  art: Art;
  set: (part: Partial<Art>, label: string, resting: boolean) => void;
}

/** Where the backing ends: with the picture, or about the shape that lies on it. */
export function BackingFields({ art, set }: Props) {
  const { edge } = art;
  const part = (values: Partial<Edge>, resting = true) => set({ edge: { ...edge, ...values } }, "backing", resting);
  // A round edge is chosen as a form.
  if (edge.kind === "round") return null;
  return (
    <>
      <SelectField label="It reaches" value={edge.kind} options={KINDS} onChange={(kind) => part({ ...FRESH.edge, kind })} />
      {edge.kind !== "rectangle" && (
        <>
          <LengthField
            label="Margin"
            help="Outside the shape; below 0 inside it."
            value={edge.margin}
            range={[-10, 30]}
            step={0.5}
            slider
            onChange={(margin, r) => part({ margin }, r)}
          />
          {edge.kind === "along" && <LengthField label="Fill gaps up to" value={edge.gap} range={[0, 30]} step={0.5} onChange={(gap, r) => part({ gap }, r)} />}
          {edge.kind === "polygon" && (
            <div className="two-fields">
              <NumberField label="Sides" value={edge.sides} range={[3, 24]} step={1} onChange={(sides, r) => part({ sides: Math.round(sides) }, r)} />
              <NumberField label="Turn" unit="°" value={edge.turn} range={[-180, 180]} step={1} onChange={(turn, r) => part({ turn }, r)} />
            </div>
          )}
          {edge.kind !== "circle" && (
            <LengthField label="Corner radius" value={edge.corner} range={[0, 50]} step={0.5} onChange={(corner, r) => part({ corner }, r)} />
          )}
        </>
      )}
    </>
  );
}
