import type { Motif } from "../../../api/client";
import { FRESH } from "../../../api/fresh";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { by, type Editing, type EntryStep, type Made } from "./entry";
import { grips } from "./grips";
import { joinFigure, PlaceFields } from "./fields";
import type { Placing } from "../kinds";

type MotifUnit = Made<"motif">["motif"];

export const freshMotif = (sha256: string) => ({ ...FRESH.units.motif, sha256 });

function MotifSwatches({ motifs, chosen, choose }: { motifs: Motif[]; chosen: string; choose: (sha256: string, name: string) => void }) {
  if (!motifs.length) return <p className="field-help">There are no motifs yet. Save a corrected picture as one.</p>;
  return (
    <div className="field swatches" role="group" aria-label="Motifs">
      {motifs.map((motif) => (
        <button
          key={motif.id}
          type="button"
          className="motif-swatch"
          aria-pressed={motif.picture.sha256 === chosen}
          aria-label={`Motif ${motif.name}`}
          title={motif.name}
          onClick={() => choose(motif.picture.sha256, motif.name)}
        >
          <img src={`/api/pictures/${motif.picture.sha256}/view.png?longest=96`} alt="" />
        </button>
      ))}
    </div>
  );
}

/** Which motif, and what of it stands. */
export function MotifFields({ unit, motifs, set }: { unit: MotifUnit; motifs: Motif[]; set: (unit: MotifUnit, resting?: boolean) => void }) {
  return (
    <>
      <MotifSwatches motifs={motifs} chosen={unit.sha256} choose={(sha256, filename) => set({ ...unit, sha256, filename })} />
      <Choice
        label="Taken as"
        value={unit.by}
        options={[
          ["outline", "its outline"],
          ["tones", "its tones"],
        ]}
        onChange={(by) => set({ ...unit, by })}
      />
      <Choice
        label="Of it stands"
        value={unit.raised}
        options={[
          ["dark", "the dark"],
          ["light", "the light"],
        ]}
        onChange={(raised) => set({ ...unit, raised })}
      />
      <LengthField label="Motif width" value={unit.wide} range={[0.5, 500]} step={0.5} slider onChange={(wide, r) => set({ ...unit, wide }, r)} />
    </>
  );
}

function MotifEditor({ step, motifs, set }: Editing<"motif">) {
  return (
    <PlaceFields entry={step} set={set as never}>
      <MotifFields unit={step.motif} motifs={motifs} set={(motif, r) => set({ motif }, r)} />
    </PlaceFields>
  );
}

const placing: Placing<Made<"motif">> = {
  size: ({ motif }) => motif.wide.mm,
  scaled: ({ motif }, factor) => ({ motif: { ...motif, wide: by(motif.wide, factor) } }),
};

export const motif: EntryStep<"motif"> = {
  name: "Motif",
  purpose: "from the shelf's motifs",
  also: "stamp, clip",
  missing: ({ motifs }) => (motifs.length ? undefined : "there are none yet"),
  figure: joinFigure,
  fresh: ({ motifs }) => ({ rule: "add", motif: freshMotif(motifs[0].picture.sha256) }),
  placing,
  Editor: MotifEditor,
  Handles: grips(placing),
};
