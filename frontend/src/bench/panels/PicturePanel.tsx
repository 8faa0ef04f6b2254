import { useMemo } from "react";
import type { Correction, ErrorDetail, Length } from "../../api/client";
import { Button } from "../../shared/Button";
import { Figure, FigureList } from "../../shared/Figure";
import { mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import { change, corrections, pictured } from "../at";
import { same } from "../keeping/merge";
import { CorrectionList } from "../picture/CorrectionList";
import { FRAMING, freshCorrection, fromRemedy, KINDS } from "../picture/kinds";
import { usePictureStore } from "../picture/pictureStore";
import { ReportList } from "../picture/ReportList";
import { SavePicture } from "../picture/SavePicture";
import { useInput } from "../picture/useInput";
import type { PanelProps } from "./PanelProps";

const NO_FAILURES = new Map<number, ErrorDetail>();

export function PicturePanel({ piece, recipe, figures, edit, settle, resting }: PanelProps) {
  const { picture } = piece;
  const list = corrections.read(recipe);
  const choose = usePictureStore((state) => state.choose);
  const result = useInput(recipe, list.length);
  const failures = useMemo(
    () => (result ? new Map(result.failures.map(({ index, error }) => [index, error])) : NO_FAILURES),
    [result],
  );

  const setList = (next: (list: Correction[]) => Correction[], label: string, still: boolean) =>
    edit(change(corrections, next), label, still);
  const add = (remedy: Correction) => {
    const word = KINDS[remedy.kind].name.toLowerCase();
    const fresh = fromRemedy(remedy);
    const plain = (step: Correction) => ({ ...step, id: "", name: "", enabled: true });
    // The same one again would do nothing more; at the end it does it to what is there by now.
    const known = list.find((step) => same(plain(step), plain(fresh)));
    if (!known) setList((list) => [...list, fresh], `add ${word}`, true);
    else if (known !== list.at(-1) || !known.enabled)
      setList((list) => [...list.filter((step) => step.id !== known.id), { ...known, enabled: true }], `move ${word} to the end`, true);
    choose(known?.id ?? fresh.id);
  };

  return (
    <>
      <h2>Picture</h2>
      <SizeFields {...{ piece, recipe, figures, edit, settle, resting }} />
      {picture.notes.map((note) => (
        <p key={note} className="state-caution">
          {note}
        </p>
      ))}
      <ReportList recipe={recipe} resting={resting} add={add} />
      <CorrectionList piece={piece} recipe={recipe} failures={failures} set={setList} />
      <SavePicture piece={piece} settle={settle} />
      <FigureList>
        <Figure name="Brought in">{picture.filename}</Figure>
        <Figure name="Kind">
          {picture.file_format}, {picture.bit_depth}-bit {picture.coloured ? "colour" : "gray"}
        </Figure>
        <Figure name="Pixels">
          {picture.cols} × {picture.rows}
        </Figure>
        {result && (result.cols !== picture.cols || result.rows !== picture.rows) && (
          <Figure name="Corrected">
            {result.cols} × {result.rows}
          </Figure>
        )}
        {result && <Figure name="Pitch">{mm(result.wide_mm / (result.cols - 1), 4)} mm per px</Figure>}
        {result?.transparent && <Figure name="Dropped">stays at the backing</Figure>}
      </FigureList>
    </>
  );
}

/** Width and height of the piece; after a crop or a rim they are set by a true size. */
function SizeFields({ piece, recipe, figures, edit }: PanelProps) {
  const { picture } = piece;
  const { along, side, corrections: list } = pictured.read(recipe);
  const framed = list.some((step) => step.enabled && FRAMING.includes(step.kind));
  const ratio = (picture.rows - 1) / (picture.cols - 1);
  const wide: Length = framed
    ? { mm: figures?.form.wide_mm ?? side.mm }
    : along === "wide"
      ? side
      : { mm: side.mm / ratio };
  const tall: Length = framed
    ? { mm: figures?.form.tall_mm ?? side.mm }
    : along === "tall"
      ? side
      : { mm: side.mm * ratio };

  const set = (which: "wide" | "tall") => (value: Length, still: boolean) =>
    edit(
      change(pictured, (now) => {
        if (!framed) return { ...now, along: which, side: value };
        const list = now.corrections;
        const last = list[list.length - 1];
        const sized: Correction =
          last?.kind === "true_size" && last.measure !== "between" && last.enabled
            ? { ...last, measure: which, length: value }
            : ({ ...freshCorrection("true_size", piece), measure: which, length: value } as Correction);
        const rest = sized.id === last?.id ? list.slice(0, -1) : list;
        return { ...now, corrections: [...rest, sized] };
      }),
      which === "wide" ? "width" : "height",
      still,
    );
  const printed = picture.dpi ? ((picture.cols - 1) / picture.dpi) * 25.4 : undefined;
  const sensible = printed !== undefined && printed >= 5 && printed <= 2000;
  return (
    <>
      <LengthField label="Width" value={wide} range={[1, 5000]} step={1} onChange={set("wide")} />
      <LengthField
        label="Height"
        value={tall}
        range={[1, 5000]}
        step={1}
        onChange={set("tall")}
        help="12, 12 mm, 0.5 in, 4 lines, 6 layers, or a sum of these."
      />
      {printed !== undefined && !framed && (
        <div className="field field-help">
          The file says {mm(picture.dpi ?? 0, 1)} pixels per inch, which makes it {mm(printed, 1)} mm
          wide{sensible ? ". " : ", hardly what is meant."}
          {sensible && Math.abs(printed - wide.mm) > 0.05 && (
            <Button size="sm" variant="plain" onClick={() => set("wide")({ mm: Number(printed.toFixed(3)) }, true)}>
              Take that size
            </Button>
          )}
        </div>
      )}
    </>
  );
}
