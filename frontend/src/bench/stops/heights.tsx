import { useEffect, useRef } from "react";
import type { Art, Recipe } from "../../api/client";
import { Button } from "../../shared/Button";
import { Choice } from "../../shared/Choice";
import { Figure, FigureList } from "../../shared/Figure";
import { mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import { NumberField } from "../../shared/NumberField";
import { SaveButton } from "../../shared/SaveButton";
import { Switch } from "../../shared/Switch";
import { isArtOf } from "../artOf";
import { art, buildUp, put, tones } from "../at";
import { FRESH } from "../../api/fresh";
import { usePieceStore } from "../pieceStore";
import { ENTRIES, entryTitle } from "../steps/entries";
import { RuleMark } from "../steps/entries/RuleMark";
import type { Remark } from "../steps/kinds";
import { StepList } from "../steps/StepList";
import { useMotifs } from "../steps/useMotifs";
import { acting } from "./acting";
import { BackingFields } from "./BackingFields";
import { BuildOutlines } from "./BuildOutlines";
import { type HeightsPanel, type HeightsTrail, ofHeights, type Told } from "./stop";

function HeightsPanel({ piece, recipe, figures, edit, settle }: HeightsPanel) {
  const heights = art.read(recipe);
  const set = (part: Partial<Art>, label: string, resting: boolean) => edit(put(art, part), label, resting);
  const motifs = useMotifs();
  const { chosen, choose } = usePieceStore();
  // What is open at first is the picture; where that is switched off, the topmost of what is on.
  const first = heights.build_up.findLast((entry) => entry.enabled)?.id;
  const unused = chosen.entries === "picture" && !tones.read(recipe).enabled && first !== undefined;
  const looked = useRef(false);
  useEffect(() => {
    if (unused && !looked.current) choose("entries", first);
    looked.current = true;
  }, [unused, first, choose]);
  const said = new Map<string, Remark>(figures?.heights.remarks?.map((remark) => [remark.entry_id, remark]));
  const islands = figures?.heights.islands ?? [];
  const cuts = heights.build_up.some((entry) => entry.enabled && "wall" in entry && entry.wall);
  const remarks = figures?.heights.remarks?.filter((remark) => remark.entry_id === "") ?? [];
  return (
    <>
      <h2>Heights</h2>
      <p className="intro">From the bottom up. Each entry joins what lies below it.</p>
      <StepList
        title="Build-up"
        what="the build-up"
        one="entry"
        list="entries"
        kinds={ENTRIES}
        fresh={FRESH.entries}
        place={buildUp}
        recipe={recipe}
        context={{ recipe, edit, motifs }}
        remarks={said}
        edit={edit}
        mark={(entry) => <RuleMark entry={entry} />}
        topFirst
      />
      {remarks.map(({ error }) => (
        <p key={error.what} className="field-caution" role="status">
          {error.why[0].toUpperCase() + error.why.slice(1)}. {error.remedy}.
        </p>
      ))}
      {tones.read(recipe).mapping !== "light" && (
        <LengthField
          label="Backing"
          help="The solid thickness under the relief."
          value={heights.backing}
          range={[0, 10]}
          step={0.1}
          slider
          onChange={(backing, resting) => set({ backing }, "backing", resting)}
        />
      )}
      <BackingFields art={heights} set={set} />
      {(islands.length > 0 || heights.islands !== "keep") && (
        <>
          <Choice
            label={islands.length === 1 ? "1 part is connected to nothing" : `${islands.length} parts are connected to nothing`}
            value={heights.islands}
            options={[
              ["keep", "leave"],
              ["drop", "drop"],
              ["hold", "hold"],
            ]}
            help={
              heights.islands === "hold"
                ? "A thin plate under everything holds them."
                : heights.islands === "drop"
                  ? "Only the largest part is made."
                  : "They are marked in the picture, and would come off the bed one by one."
            }
            onChange={(choice) => set({ islands: choice }, "loose parts", true)}
          />
          {heights.islands === "hold" && (
            <LengthField
              label="Holding plate"
              value={heights.hold}
              range={[0.2, 5]}
              step={0.1}
              onChange={(hold, resting) => set({ hold }, "holding plate", resting)}
            />
          )}
        </>
      )}
      <h3 className="mt-3">For a mould, a stamp or a cutter</h3>
      <NumberField
        label="Draft"
        unit="°"
        help="Walls lean out by this from upright, so that a mould lets go."
        value={heights.draft}
        range={[0, 45]}
        step={0.5}
        onChange={(draft, resting) => set({ draft }, "draft", resting)}
      />
      <Switch label="Mirror, left for right" value={heights.mirror} onChange={(mirror) => set({ mirror }, "mirror", true)} />
      {cuts && heights.mirror && <p className="field-help">The cutter stands blade upwards: pressed from above, what it cuts is as in the picture.</p>}
      {cuts && !heights.mirror && (
        <div className="field-caution" role="status">
          Pressed from above, this cutter cuts the picture as seen in a mirror.{" "}
          <Button size="sm" variant="plain" onClick={() => set({ mirror: true }, "mirror", true)}>
            Mirror the cutter
          </Button>
        </div>
      )}
      <Switch label="Negative, high for low" value={heights.negative} onChange={(negative) => set({ negative }, "negative", true)} />
      {figures && (
        <FigureList>
          <Figure name="Lowest">{mm(figures.heights.lowest_mm, 3)} mm</Figure>
          <Figure name="Highest">{mm(figures.heights.highest_mm, 3)} mm</Figure>
          {figures.mesh.bodies > 1 && <Figure name="Separate parts">{figures.mesh.bodies}</Figure>}
        </FigureList>
      )}
      {!isArtOf(piece) && <SaveHeights piece={piece} settle={settle} />}
    </>
  );
}

function SaveHeights({ piece, settle }: Pick<HeightsPanel, "piece" | "settle">) {
  return (
    <div className="field">
      <div className="field-label mb-1">Save the heights, in mm</div>
      <div className="d-flex gap-2">
        {(["tif", "png"] as const).map((ending) => (
          <SaveButton key={ending} size="sm" piece={piece} product={`heights.${ending}`} settle={settle}>
            {ending === "tif" ? "Float TIFF" : "16-bit PNG"}
          </SaveButton>
        ))}
      </div>
      <div className="field-help">Brought back to the shelf, they keep their millimetres.</div>
    </div>
  );
}

/** By what a remark is about, in the words of the trail. */
const THIN: Record<string, string> = {
  text: "lettering too thin",
  thinnest: "too thin in places",
  height: "height too thin",
  width: "width too thin",
  size: "size too thin",
  bridges: "bridges too thin",
  "relief depth": "relief depth too thin",
};

function state({ recipe, figures }: HeightsTrail): Omit<Told, "figure"> {
  const heights = art.read(recipe);
  const { mapping, raised, pins } = tones.read(recipe);
  const remarks = figures?.heights.remarks ?? [];
  const refused = remarks.filter((remark) => remark.refused).length;
  if (refused) return { state: `${refused} not applied`, tone: "wrong" };
  const loose = heights.islands === "keep" ? (figures?.heights.islands?.length ?? 0) : 0;
  if (loose) return { state: `${loose} loose part${loose === 1 ? "" : "s"}`, tone: "caution" };
  if (remarks.length) return { state: THIN[remarks[0].error.what] ?? `${remarks.length} to look at`, tone: "caution" };
  const made = heights.build_up.filter((entry) => entry.enabled).length;
  const turned = [heights.mirror && "mirrored", heights.negative && "negative"].filter(Boolean).join(", ");
  const alone = heights.build_up.filter((entry) => entry.enabled);
  const cutter = alone.length === 1 && "wall" in alone[0] && alone[0].wall;
  if (turned) return { state: cutter ? `cutter, ${turned}` : turned, tone: "quiet" };
  if (alone.length === 1 && alone[0].kind !== "picture") return { state: `${cutter ? "cutter" : entryTitle(alone[0]).toLowerCase()} alone`, tone: "quiet" };
  if (made > 1) return { state: `${made} in the build-up`, tone: "quiet" };
  if (mapping === "light") return { state: "by light", tone: "quiet" };
  return { state: mapping === "straight" ? `${raised} tones raised` : `${pins.length} tones pinned`, tone: "quiet" };
}

/** Of art on a body: of its picture, or of what is highest on it. */
function depthOf(recipe: Recipe): number {
  const own = tones.read(recipe);
  const entries = buildUp.read(recipe).filter((entry) => entry.enabled && "height" in entry);
  return own?.enabled ? own.depth.mm : Math.max(0, ...entries.map((entry) => ("height" in entry ? Math.abs(entry.height.mm) : 0)));
}

function useTold(props: HeightsTrail): Told {
  const heights = props.figures?.heights;
  const own = isArtOf(props.piece) ? `${mm(depthOf(props.recipe))} mm deep` : "…";
  return { figure: heights ? `${mm(heights.lowest_mm)} to ${mm(heights.highest_mm)} mm` : own, ...state(props) };
}

export const heights = ofHeights({
  id: "heights",
  name: "Heights",
  Panel: HeightsPanel,
  useTold,
  acting: acting("entries", buildUp, ENTRIES),
  Under: BuildOutlines,
});
