import { useMemo } from "react";
import type { Correction, Length, Pictured, Recipe } from "../../api/client";
import { Button } from "../../shared/Button";
import { Figure, FigureList } from "../../shared/Figure";
import { mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import { isArtOf } from "../artOf";
import { buildUp, change, corrections, hasHeights, pictured } from "../at";
import { same } from "../keeping/merge";
import { usePieceStore } from "../pieceStore";
import { ReportList } from "../picture/ReportList";
import { SavePicture } from "../picture/SavePicture";
import { useInput } from "../picture/useInput";
import { FRESH } from "../../api/fresh";
import { StartRow } from "../starts/StartRow";
import { CORRECTIONS, correctionKind, freshCorrection, fromRemedy } from "../steps/corrections";
import { withTraces } from "../steps/entries/places";
import { DrawingSize, isDrawn } from "../steps/entries/drawing";
import type { Remark } from "../steps/kinds";
import { StepList } from "../steps/StepList";
import { acting } from "./acting";
import { type HeightsPanel, type HeightsTrail, ofHeights, type Told } from "./stop";

function PicturePanel({ piece, recipe, edit, settle, resting }: HeightsPanel) {
  const { picture } = piece;
  const inArt = isArtOf(piece);
  const list = corrections.read(recipe);
  const choose = usePieceStore((state) => state.choose);
  const result = useInput(recipe, list.length);
  const remarks = useMemo(
    () => new Map(result?.failures.flatMap(({ index, error }): [string, Remark][] => (list[index] ? [[list[index].id, { error, refused: true }]] : []))),
    [result, list],
  );

  // A piece that began with a drawing is sized by it; its picture only shows it.
  const heights = hasHeights(recipe);
  const drawn = heights && isDrawn(picture.filename) ? buildUp.read(recipe).find((entry) => entry.kind === "drawing") : undefined;
  const setList = (next: (list: Correction[]) => Correction[], label: string, still: boolean) => edit(change(corrections, next), label, still);
  const add = (remedy: Correction) => {
    const word = correctionKind(remedy).name.toLowerCase();
    const fresh = fromRemedy(remedy);
    const plain = (step: Correction) => ({ ...step, id: "", name: "", enabled: true });
    // The same one again would do nothing more; at the end it does it to what is there by now.
    const known = list.find((step) => same(plain(step), plain(fresh)));
    if (!known) setList((list) => [...list, fresh], `add ${word}`, true);
    else if (known !== list.at(-1) || !known.enabled)
      setList((list) => [...list.filter((step) => step.id !== known.id), { ...known, enabled: true }], `move ${word} to the end`, true);
    choose("corrections", known?.id ?? fresh.id);
  };

  return (
    <>
      <h2>Picture</h2>
      {inArt && <p className="intro">Of the decoration that is open.</p>}
      {!heights && <p className="intro">Of one subject, whole and alone. How large the figure is stands at Figure.</p>}
      {heights && !inArt && <StartRow recipe={recipe} edit={edit} />}
      {drawn && <DrawingSize step={drawn} edit={edit} />}
      {!drawn && heights && (
        <SizeFields piece={piece} recipe={recipe} edit={edit} size={result ? [result.wide_mm, result.tall_mm] : [piece.wide_mm, piece.tall_mm]} />
      )}
      {picture.notes.map((note) => (
        <p key={note} className="state-caution">
          {note}
        </p>
      ))}
      <ReportList recipe={recipe} resting={resting} add={add} />
      <StepList
        title="Corrections"
        what="corrections"
        one="correction"
        list="corrections"
        kinds={CORRECTIONS}
        fresh={FRESH.corrections}
        place={corrections}
        recipe={recipe}
        context={{ piece, recipe }}
        remarks={remarks}
        edit={edit}
        empty="None yet. The picture brought in is never changed itself."
      />
      {!inArt && <SavePicture piece={piece} settle={settle} />}
      <FigureList>
        <Figure name="Brought in">{picture.filename}</Figure>
        <Figure name="Kind">
          {isDrawn(picture.filename)
            ? "drawing, shown as a picture"
            : `${picture.file_format}, ${picture.bit_depth}-bit ${picture.coloured ? "colour" : "gray"}`}
        </Figure>
        <Figure name="Pixels">
          {picture.cols} × {picture.rows}
        </Figure>
        {result && (result.cols !== picture.cols || result.rows !== picture.rows) && (
          <Figure name="Corrected">
            {result.cols} × {result.rows}
          </Figure>
        )}
        {result && heights && <Figure name="Pitch">{mm(result.wide_mm / (result.cols - 1), 4)} mm per px</Figure>}
        {result?.transparent && heights && <Figure name="Dropped">stays at the backing</Figure>}
      </FigureList>
    </>
  );
}

/** Another size of the picture, and what was placed on it by hand as much further out. */
const sizedTo = (which: "wide" | "tall", value: Length, next: (now: Pictured) => Pictured) => (recipe: Recipe) => {
  const sizeOf = ({ along, side, corrections }: Pictured) => {
    const last = corrections.findLast((step) => step.enabled && step.kind === "true_size" && step.measure === which);
    return last?.kind === "true_size" ? last.length.mm : along === which ? side.mm : undefined;
  };
  const before = sizeOf(pictured.read(recipe));
  const sized = change(pictured, next)(recipe);
  return before ? withTraces(value.mm / before)(sized) : sized;
};

interface SizeProps extends Pick<HeightsPanel, "piece" | "recipe" | "edit"> {
  /** Width and height as the core works them out, mm. */
  size: [number, number];
}

/** Width and height of the piece; after a crop or a rim they are set by a true size. */
function SizeFields({ piece, recipe, edit, size }: SizeProps) {
  const { picture } = piece;
  const { along, side, corrections: list } = pictured.read(recipe);
  const framed = list.some((step) => step.enabled && correctionKind(step).framing);
  const shown = (which: "wide" | "tall"): Length => (!framed && along === which ? side : { mm: size[which === "wide" ? 0 : 1] });
  const wide = shown("wide");

  const set = (which: "wide" | "tall") => (value: Length, still: boolean) =>
    edit(
      sizedTo(which, value, (now) => {
        if (!framed) return { ...now, along: which, side: value };
        const list = now.corrections;
        const last = list[list.length - 1];
        const sized: Correction =
          last?.kind === "true_size" && last.measure !== "between" && last.enabled
            ? { ...last, measure: which, length: value }
            : ({ ...freshCorrection("true_size", { piece, recipe }), measure: which, length: value } as Correction);
        const rest = sized.id === last?.id ? list.slice(0, -1) : list;
        return { ...now, corrections: [...rest, sized] };
      }),
      which === "wide" ? "width" : "height",
      still,
    );
  const printed = picture.printed_mm;
  const sensible = printed != null && printed >= 5 && printed <= 2000;
  return (
    <>
      <LengthField label="Width" value={wide} range={[1, 5000]} step={1} onChange={set("wide")} />
      <LengthField
        label="Height"
        value={shown("tall")}
        range={[1, 5000]}
        step={1}
        onChange={set("tall")}
        help="12, 12 mm, 0.5 in, 4 lines, 6 layers, or a sum of these."
      />
      {printed != null && !framed && (
        <div className="field field-help">
          The file says {mm(picture.dpi ?? 0, 1)} pixels per inch, which makes it {mm(printed, 1)} mm wide{sensible ? ". " : ", hardly what is meant."}
          {sensible && Math.abs(printed - wide.mm) > 0.05 && (
            <Button size="sm" variant="plain" onClick={() => set("wide")({ mm: printed }, true)}>
              Take that size
            </Button>
          )}
        </div>
      )}
    </>
  );
}

function state({ piece, recipe, figures }: HeightsTrail): Omit<Told, "figure"> {
  const { picture } = piece;
  const failed = figures?.picture?.failed ?? 0;
  if (failed) return { state: `${failed} not applied`, tone: "wrong" };
  const applied = corrections.read(recipe).filter((step) => step.enabled).length;
  if (picture.notes.length) return { state: "with a remark", tone: "caution" };
  if (isDrawn(picture.filename) && !applied) return { state: "shown as a picture", tone: "quiet" };
  if (applied) return { state: `${applied} correction${applied === 1 ? "" : "s"}`, tone: "quiet" };
  return { state: picture.coloured ? "colour" : "gray", tone: "quiet" };
}

function useTold(props: HeightsTrail): Told {
  const {
    piece: { picture },
    figures,
  } = props;
  const { cols, rows } = figures?.picture ?? picture;
  return { figure: isDrawn(picture.filename) ? "a drawing" : `${cols} × ${rows}, ${picture.bit_depth}-bit`, ...state(props) };
}

export const picture = ofHeights({
  id: "picture",
  name: "Picture",
  Panel: PicturePanel,
  useTold,
  acting: acting("corrections", corrections, CORRECTIONS),
  bare: true,
});
