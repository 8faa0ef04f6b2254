import { useEffect, useMemo, useState } from "react";
import { Spinner } from "react-bootstrap";
import { Link, useParams } from "react-router";
import { detailOf } from "../api/client";
import { EmptyState } from "../shared/EmptyState";
import { useUnits } from "../shared/units";
import { useShortcuts } from "../shared/useShortcuts";
import { STOPS, useBench } from "./benchStore";
import { ControlPanel } from "./ControlPanel";
import { ExportSheet } from "./ExportSheet";
import { Header } from "./Header";
import { PictureView } from "./picture/PictureView";
import { usePictureStore } from "./picture/pictureStore";
import { PieceView } from "./PieceView";
import { SectionStrip } from "./SectionStrip";
import { Trail } from "./Trail";
import { usePiece } from "./usePiece";
import { usePieceMesh } from "./usePieceMesh";
import { ViewSplit } from "./ViewSplit";
import { Button } from "../shared/Button";

/** The screen where one piece is worked on. */
export default function Bench() {
  const { pieceId = "" } = useParams();
  const open = usePiece(pieceId);
  const mesh = usePieceMesh(open.piece, open.recipe);
  const [exporting, setExporting] = useState(false);
  const { go, see, look, setLook } = useBench();
  const { step } = open;

  // Tools, marks and zoom belong to one piece.
  useEffect(() => {
    usePictureStore.setState(usePictureStore.getInitialState(), true);
    useBench.setState({ entry: "picture", path: { points: [], from: 0, to: 1 }, along: undefined, spot: undefined });
  }, [pieceId]);
  // Lengths typed in lines and layers are worth what the piece's printer makes of them.
  const printer = open.recipe?.printer;
  useEffect(() => {
    if (printer) useUnits.setState({ line_mm: printer.line_mm, layer_mm: printer.layer_mm });
  }, [printer]);

  useShortcuts(
    useMemo(
      () => ({
        "ctrl+z": () => step("undo"),
        "ctrl+shift+z": () => step("redo"),
        "ctrl+y": () => step("redo"),
        ...Object.fromEntries(STOPS.map((stop, index) => [`Digit${index + 1}`, () => go(stop)])),
        "shift+Digit1": () => see("front"),
        "shift+Digit2": () => see("side"),
        "shift+Digit3": () => see("above"),
        "shift+Digit0": () => see("all"),
        l: () => setLook(look === "lines" ? "surface" : "lines"),
        h: () => setLook(look === "lit" ? "surface" : "lit"),
        x: () => setExporting(true),
      }),
      [step, go, see, look, setLook],
    ),
  );

  if (open.loading) return <Spinner className="m-4" aria-label="Loading the piece" />;
  if (!open.piece || !open.recipe) {
    const { why, remedy } = detailOf(open.failure);
    return (
      <EmptyState title="This piece cannot be opened">
        <p>
          {why}. {remedy}.
        </p>
        <Link to="/">
          <Button variant="plain">To the shelf</Button>
        </Link>
      </EmptyState>
    );
  }
  const { piece, recipe } = open;
  const figures = mesh.shown?.figures;
  const resting = recipe === piece.recipe;
  return (
    <div className="bench">
      <Header open={open} piece={piece} onExport={() => setExporting(true)} />
      <Trail piece={piece} recipe={recipe} figures={figures} mesh={mesh} />
      <div className="bench-body">
        <div className="views-and-strip">
          <ViewSplit
          left={<PictureView key={piece.id} piece={piece} recipe={recipe} resting={resting} figures={figures} edit={open.edit} />}
          right={<PieceView mesh={mesh} recipe={recipe} resting={resting} problem={open.problem ?? mesh.problem} />}
          />
          <SectionStrip recipe={recipe} resting={resting} />
        </div>
        <ControlPanel
          piece={piece}
          recipe={recipe}
          figures={figures}
          edit={open.edit}
          settle={open.settle}
          resting={resting}
        />
      </div>
      {exporting && (
        <ExportSheet
          piece={piece}
          figures={figures}
          settle={open.settle}
          onClose={() => setExporting(false)}
        />
      )}
    </div>
  );
}
