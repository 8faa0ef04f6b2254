import { detailOf, type Schemas } from "../../api/client";
import { BeyondBed } from "../BeyondBed";
import { Figure, FigureList } from "../../shared/Figure";
import { mm, size } from "../../shared/format";
import { Progress } from "../../shared/Progress";
import { SaveButton } from "../../shared/SaveButton";
import { useMade } from "../useMade";
import type { PanelProps } from "./stop";

/** A piece that tips over sooner than this is said to. */
const STEADY_DEG = 8;

/** How the piece comes off the bed: whether it fits, is closed, has walls, and stands. */
export function AsMade({ piece, recipe, figures, edit, settle, resting }: Pick<PanelProps, "piece" | "recipe" | "figures" | "edit" | "settle" | "resting">) {
  const { data, error } = useMade("proof", "proof.json", { piece, recipe }, resting);
  const { printer } = recipe.made_with;
  return (
    <section aria-label="As it is made">
      {figures && (
        <FigureList>
          <Figure name="Size">{figures.mesh.size_mm.map((side) => mm(side, 1)).join(" × ")} mm</Figure>
          <Figure name="On the bed">{figures.beyond_bed_mm ? "does not fit" : `fits ${size(printer.bed_wide_mm, printer.bed_deep_mm)}`}</Figure>
          <Figure name="Weight, solid">{mm(figures.mesh.weight_g, 1)} g</Figure>
        </FigureList>
      )}
      {figures?.beyond_bed_mm && <BeyondBed figures={figures} recipe={recipe} edit={edit} />}
      {data ? (
        <Found {...data.said} />
      ) : error ? (
        <p className="field-caution">It could not be looked at: {detailOf(error).why}.</p>
      ) : (
        <Progress label="Looking at the whole piece" />
      )}
      <div className="mb-3">
        <SaveButton size="sm" piece={piece} product="proof.json" settle={settle}>
          Save what is said
        </SaveButton>
      </div>
    </section>
  );
}

function Found({ closed, bodies, thinnest_mm: thinnest, line_mm: line, tips_deg: tips, touching_mm2: touching }: Schemas["ProofOut"]) {
  const thin = thinnest !== null && thinnest < line;
  return (
    <>
      <FigureList>
        <Figure name="Closed">{closed ? "yes" : "no"}</Figure>
        <Figure name="Bodies">{bodies}</Figure>
        <Figure name="Thinnest wall">{thinnest === null ? "none" : `${mm(thinnest, 2)} mm`}</Figure>
        <Figure name="Lies on the bed with">{mm(touching / 100, 2)} cm²</Figure>
        <Figure name="Tips over at">{tips > 0 ? `${mm(tips, 0)}°` : "it does not stand"}</Figure>
      </FigureList>
      {!closed && <p className="field-caution">It is open: Finish says where, and mends it.</p>}
      {thin && <p className="field-caution">Its thinnest wall is less than a line of the nozzle ({mm(line, 2)} mm): the look “walls” shows where.</p>}
      {tips < STEADY_DEG && (
        <p className="field-caution">{tips > 0 ? "It tips over soon" : "It does not stand as it is"}: lay it on a face in Finish, or give it a plate.</p>
      )}
    </>
  );
}
