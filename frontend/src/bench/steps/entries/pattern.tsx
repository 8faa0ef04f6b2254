import type { Unit } from "../../../api/client";
import { FRESH } from "../../../api/fresh";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import { by, type Editing, type EntryStep, type Made } from "./entry";
import { grips } from "./grips";
import { joinFigure, PlaceFields } from "./fields";
import type { Placing } from "../kinds";
import { freshMotif, MotifFields } from "./motif";
import { OutlineFields } from "./outline";

function PatternEditor({ step, motifs, set }: Editing<"pattern">) {
  const { unit, layout } = step;
  const lay = (part: object, r?: boolean) => set({ layout: { ...layout, ...part } as typeof layout }, r);
  return (
    <PlaceFields entry={step} set={set as never}>
      {motifs.length > 0 && (
        <Choice
          label="Repeats"
          value={unit.kind === "motif" ? "motif" : "shape"}
          options={[
            ["shape", "a shape"],
            ["motif", "a motif"],
          ]}
          onChange={(kind) =>
            set({
              unit: (kind === "motif" ? { ...freshMotif(motifs[0].picture.sha256), wide: unit.wide } : { ...FRESH.outlines.star, wide: unit.wide }) as Unit,
            })
          }
        />
      )}
      {unit.kind === "motif" ? (
        <MotifFields unit={unit} motifs={motifs} set={(next, r) => set({ unit: next }, r)} />
      ) : (
        <OutlineFields shape={unit} set={(next, r) => set({ unit: next }, r)} />
      )}
      <Choice
        label="Laid on"
        value={layout.kind}
        options={[
          ["grid", "a grid"],
          ["ring", "a ring"],
        ]}
        onChange={(kind) => set({ layout: FRESH.layouts[kind] })}
      />
      {layout.kind === "grid" ? (
        <>
          <NumberField label="Columns" value={layout.columns} range={[1, 40]} step={1} slider={false} onChange={(n, r) => lay({ columns: Math.round(n) }, r)} />
          <NumberField label="Rows" value={layout.rows} range={[1, 40]} step={1} slider={false} onChange={(n, r) => lay({ rows: Math.round(n) }, r)} />
          <div className="two-fields">
            <LengthField label="Across" value={layout.across} range={[0.5, 200]} step={0.5} onChange={(across, r) => lay({ across }, r)} />
            <LengthField label="Upwards" value={layout.up} range={[0.5, 200]} step={0.5} onChange={(up, r) => lay({ up }, r)} />
          </div>
          <Switch label="Every second row half-way" value={layout.staggered} onChange={(staggered) => lay({ staggered })} />
        </>
      ) : (
        <>
          <NumberField label="How many" value={layout.count} range={[1, 60]} step={1} slider={false} onChange={(n, r) => lay({ count: Math.round(n) }, r)} />
          <LengthField label="Ring radius" value={layout.radius} range={[1, 200]} step={0.5} slider onChange={(radius, r) => lay({ radius }, r)} />
          <Switch label="Turned outwards" value={layout.turned} onChange={(turned) => lay({ turned })} />
        </>
      )}
    </PlaceFields>
  );
}

const placing: Placing<Made<"pattern">> = {
  size: ({ unit }) => unit.wide.mm,
  scaled: ({ layout, unit }, factor) => {
    const sized = { ...unit, wide: by(unit.wide, factor) } as Unit;
    return layout.kind === "grid"
      ? { unit: sized, layout: { ...layout, across: by(layout.across, factor), up: by(layout.up, factor) } }
      : { unit: sized, layout: { ...layout, radius: by(layout.radius, factor) } };
  },
};

export const pattern: EntryStep<"pattern"> = {
  name: "Pattern",
  purpose: "a shape or motif on a grid or ring",
  also: "array, grid, repeat",
  title: ({ layout }) => `Pattern, ${layout.kind}`,
  figure: joinFigure,
  fresh: () => ({ rule: "add", height: { mm: 0.8 } }),
  placing,
  Editor: PatternEditor,
  Handles: grips(placing),
};
