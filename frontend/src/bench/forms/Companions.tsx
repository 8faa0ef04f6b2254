import type { FiguresOfHeights, Piece, Recipe, Relief } from "../../api/client";
import { Choice } from "../../shared/Choice";
import { LengthField } from "../../shared/LengthField";
import { NumberField } from "../../shared/NumberField";
import { TextField } from "../../shared/TextField";
import { SaveButton } from "../../shared/SaveButton";
import { buildUp, holder as holderAt, lantern as lanternAt, put, relief, sheets as sheetsAt } from "../at";
import type { OpenPiece } from "../usePiece";

type Holder = Relief["holder"];
type Lantern = Relief["lantern"];
type Sheets = Relief["sheets"];
type Part = "holder" | "cap" | "side" | "base" | "lid" | "stamp";

interface Props {
  piece: Piece;
  figures: FiguresOfHeights | undefined;
  recipe: Recipe;
  edit: OpenPiece["edit"];
  settle: OpenPiece["settle"];
}

/** Pieces of their own that go with this one: a holder and its cap, the parts of a lantern. */
export function Companions({ piece, recipe, figures, edit, settle }: Props) {
  const { holder, lantern, fittings } = relief.read(recipe);
  const { slides, flat } = figures?.form ?? {};
  const held = fittings.some((fitting) => fitting.kind === "tabs" && fitting.enabled);
  const setHolder = (part: Partial<Holder>, resting: boolean) => edit(put(holderAt, part), "holder", resting);
  const setLantern = (part: Partial<Lantern>, resting: boolean) => edit(put(lanternAt, part), "lantern", resting);

  const saving = (part: Part, words: string) => (
    <SaveButton size="sm" piece={piece} product={`${part}.stl`} settle={settle}>
      {words}
    </SaveButton>
  );

  const cuts = buildUp.read(recipe).some((entry) => entry.enabled && "wall" in entry && entry.wall);
  const { art, sheets } = relief.read(recipe);
  const layers = art.build_up.filter((entry) => entry.enabled && entry.kind !== "picture" && entry.rule !== "cut").length + (art.backing.mm > 0 ? 1 : 0);
  const layered = layers > 1 && art.build_up.some((entry) => entry.enabled && "grow" in entry);
  const setSheets = (part: Partial<Sheets>, resting: boolean) => edit(put(sheetsAt, part), "sheets", resting);
  if (!slides && !flat && !cuts && !layered) return null;
  return (
    <section className="companions" aria-label="Pieces that go with it">
      {cuts && (
        <>
          <h3>Stamp for the cutter</h3>
          <p className="field-help">A block that slides in its opening, with the same ridges on its face.</p>
          <div className="field">{saving("stamp", "Stamp as STL")}</div>
        </>
      )}
      {layered && (
        <>
          <h3>As flat sheets</h3>
          <p className="field-help">The backing and every shape a sheet of its own, for a laser, an inlay or several materials.</p>
          <Choice
            label="They lie"
            value={sheets.way}
            options={[
              ["inlaid", "let into each other"],
              ["stacked", "on each other"],
            ]}
            onChange={(way) => setSheets({ way }, true)}
          />
          <div className="two-fields">
            <LengthField label="Thickness" value={sheets.thick} range={[0.2, 20]} step={0.1} onChange={(thick, r) => setSheets({ thick }, r)} />
            {sheets.way === "inlaid" && (
              <LengthField label="Clearance" value={sheets.clearance} range={[0, 1]} step={0.02} onChange={(clearance, r) => setSheets({ clearance }, r)} />
            )}
          </div>
          <div className="field d-flex gap-2 flex-wrap">
            {(["svg", "dxf", "zip"] as const).map((ending) => (
              <SaveButton key={ending} size="sm" piece={piece} product={`sheets.${ending}`} settle={settle}>
                {ending === "zip" ? "STL of each, zipped" : `All as ${ending.toUpperCase()}`}
              </SaveButton>
            ))}
          </div>
        </>
      )}
      {slides && held && (
        <>
          <h3>Holder and cap</h3>
          <LengthField label="Wall of the posts" value={holder.wall} range={[0.8, 8]} step={0.1} onChange={(wall, r) => setHolder({ wall }, r)} />
          <LengthField label="Plate to front and back" value={holder.deep} range={[4, 80]} step={1} onChange={(deep, r) => setHolder({ deep }, r)} />
          <LengthField label="Height of the cap" value={holder.cap} range={[5, 60]} step={1} onChange={(cap, r) => setHolder({ cap }, r)} />
          <TextField label="Lettering" maxLength={80} value={holder.lettering} onChange={(lettering, r) => setHolder({ lettering }, r)} />
          <div className="field d-flex gap-2">
            {saving("holder", "Holder as STL")}
            {saving("cap", "Cap as STL")}
          </div>
        </>
      )}
      {flat && (
        <>
          <h3>As a lantern</h3>
          <NumberField
            label="Sides"
            value={lantern.sides}
            range={[3, 12]}
            step={1}
            help="Each is this panel, its edges mitred."
            onChange={(sides, r) => setLantern({ sides: Math.round(sides) }, r)}
          />
          <LengthField
            label="Clearance of base and lid"
            value={lantern.clearance}
            range={[0, 2]}
            step={0.05}
            onChange={(clearance, r) => setLantern({ clearance }, r)}
          />
          <LengthField label="Vent in the lid" value={lantern.vent} range={[0, 100]} step={1} onChange={(vent, r) => setLantern({ vent }, r)} />
          <div className="field d-flex gap-2 flex-wrap">
            {saving("side", "Side as STL")}
            {saving("base", "Base")}
            {saving("lid", "Lid")}
          </div>
        </>
      )}
    </section>
  );
}
