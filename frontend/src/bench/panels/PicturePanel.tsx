import { Figure, FigureList } from "../../shared/Figure";
import { mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import type { PanelProps } from "./PanelProps";
import { Button } from "../../shared/Button";

export function PicturePanel({ piece, recipe, figures, edit }: PanelProps) {
  const { picture } = piece;
  const { along = "wide" } = recipe.picture;
  const side = recipe.picture.side ?? { mm: 100 };
  const ratio = (picture.rows - 1) / (picture.cols - 1);
  const wide = along === "wide" ? side : { mm: side.mm / ratio };
  const tall = along === "tall" ? side : { mm: side.mm * ratio };
  const set = (which: "wide" | "tall") => (value: typeof side, resting: boolean) =>
    edit(
      (now) => ({ ...now, picture: { ...now.picture, along: which, side: value } }),
      which === "wide" ? "width" : "height",
      resting,
    );
  const printed = picture.dpi ? ((picture.cols - 1) / picture.dpi) * 25.4 : undefined;
  const sensible = printed !== undefined && printed >= 5 && printed <= 2000;
  return (
    <>
      <h2>Picture</h2>
      <p className="intro">How large the piece is in the hand. Width and height go together.</p>
      <LengthField label="Width" value={wide} range={[1, 5000]} step={1} onChange={set("wide")} />
      <LengthField
        label="Height"
        value={tall}
        range={[1, 5000]}
        step={1}
        onChange={set("tall")}
        help="12, 12 mm, 0.5 in, 4 lines, 6 layers, or a sum of these."
      />
      {printed !== undefined && (
        <div className="field field-help">
          The file says {mm(picture.dpi ?? 0, 1)} pixels per inch, which makes it {mm(printed, 1)} mm
          wide{sensible ? ". " : ", hardly what is meant."}
          {sensible && Math.abs(printed - wide.mm) > 0.05 && (
            <Button
              size="sm"
              variant="plain"
              onClick={() => set("wide")({ mm: Number(printed.toFixed(3)) }, true)}
            >
              Take that size
            </Button>
          )}
        </div>
      )}
      {picture.notes.map((note) => (
        <p key={note} className="state-caution">
          {note}
        </p>
      ))}
      <FigureList>
        <Figure name="File">{picture.filename}</Figure>
        <Figure name="Kind">
          {picture.file_format}, {picture.bit_depth}-bit {picture.coloured ? "colour" : "gray"}
        </Figure>
        <Figure name="Pixels">
          {picture.cols} × {picture.rows}
        </Figure>
        <Figure name="Pitch">{mm(wide.mm / (picture.cols - 1), 4)} mm per px</Figure>
        {picture.transparent && <Figure name="Transparent">stays at the backing</Figure>}
        {figures && (
          <Figure name="Size">
            {mm(figures.form.wide_mm)} × {mm(figures.form.tall_mm)} mm
          </Figure>
        )}
      </FigureList>
      <p className="coming mt-4">
        Cropping, levels, removing a background and the other corrections will stand here. They are
        not built yet.
      </p>
    </>
  );
}
