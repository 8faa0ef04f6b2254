import type { Outline } from "../../../api/client";
import { FRESH } from "../../../api/fresh";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { SelectField } from "../../../shared/SelectField";
import { by, type Editing, type EntryStep, type Made } from "./entry";
import { joinFigure, PlaceFields } from "./fields";
import { OutlinedFields } from "./OutlinedFields";
import type { Placing } from "../kinds";
import { grips } from "./grips";

const NAMES: { [K in Outline["kind"]]: string } = {
  rectangle: "Rectangle",
  ellipse: "Ellipse",
  polygon: "Polygon",
  star: "Star",
  line: "Line",
  ring: "Ring",
};
const OUTLINE_NAMES = Object.entries(NAMES).map(([kind, name]) => [kind as Outline["kind"], name.toLowerCase()] as const);

/** The numbers of a shape. */
export function OutlineFields({ shape, set }: { shape: Outline; set: (shape: Outline, resting?: boolean) => void }) {
  const part = (values: object, resting?: boolean) => set({ ...shape, ...values } as Outline, resting);
  return (
    <>
      <SelectField
        label="Shape"
        value={shape.kind}
        options={OUTLINE_NAMES}
        onChange={(kind) => set({ ...FRESH.outlines[kind], wide: shape.wide } as Outline)}
      />
      <div className="two-fields">
        <LengthField
          label={"tall" in shape ? (shape.kind === "line" ? "Length" : "Width") : "Diameter"}
          value={shape.wide}
          range={[0.1, 500]}
          step={0.5}
          onChange={(wide, r) => part({ wide }, r)}
        />
        {"tall" in shape && (
          <LengthField
            label={shape.kind === "line" ? "Thickness" : "Tall"}
            value={shape.tall}
            range={[0.1, 500]}
            step={shape.kind === "line" ? 0.1 : 0.5}
            onChange={(tall, r) => part({ tall }, r)}
          />
        )}
        {shape.kind === "ring" && <LengthField label="Band" value={shape.band} range={[0.1, 100]} step={0.1} onChange={(band, r) => part({ band }, r)} />}
      </div>
      {shape.kind === "rectangle" && (
        <LengthField label="Corner radius" value={shape.corner} range={[0, 50]} step={0.5} slider onChange={(corner, r) => part({ corner }, r)} />
      )}
      {shape.kind === "polygon" && (
        <NumberField label="Sides" value={shape.sides} range={[3, 24]} step={1} onChange={(sides, r) => part({ sides: Math.round(sides) }, r)} />
      )}
      {shape.kind === "star" && (
        <>
          <NumberField label="Points" value={shape.points} range={[3, 24]} step={1} onChange={(points, r) => part({ points: Math.round(points) }, r)} />
          <NumberField
            label="Inner corners"
            value={shape.inner}
            range={[0.05, 0.98]}
            step={0.01}
            help="Share of the radius."
            onChange={(inner, r) => part({ inner }, r)}
          />
        </>
      )}
    </>
  );
}

function OutlineEditor({ step, set }: Editing<"outline">) {
  return (
    <PlaceFields entry={step} set={set as never}>
      <OutlineFields shape={step.outline} set={(outline, r) => set({ outline }, r)} />
      <OutlinedFields step={step} set={set as never} />
    </PlaceFields>
  );
}

const placing: Placing<Made<"outline">> = {
  size: ({ outline }) => outline.wide.mm,
  scaled: ({ outline }, factor) => {
    const taller = "tall" in outline && outline.kind !== "line" ? { tall: by(outline.tall, factor) } : {};
    return { outline: { ...outline, wide: by(outline.wide, factor), ...taller } as Outline };
  },
};

export const outline: EntryStep<"outline"> = {
  name: "Shape",
  purpose: "rectangle, ellipse, polygon, star, line, ring",
  also: "primitive, extrude, circle",
  title: ({ outline }) => NAMES[outline.kind],
  figure: joinFigure,
  fresh: () => ({ rule: "highest" }),
  placing,
  Editor: OutlineEditor,
  Handles: grips(placing),
};
