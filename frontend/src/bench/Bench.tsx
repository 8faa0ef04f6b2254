import { useEffect, useState } from "react";
import { Spinner } from "react-bootstrap";
import { Link, useParams } from "react-router";
import { AsBefore } from "../shared/Figure";
import { EmptyState } from "../shared/EmptyState";
import { askAgain } from "../shared/old";
import { useUnits } from "../shared/units";
import { useOnce } from "../shared/useOnce";
import { useLate } from "../shared/useLate";
import { useShortcuts } from "../shared/useShortcuts";
import { hasHeights, hasPicture } from "./at";
import { useArtOf } from "./artOf";
import { Banner } from "./Banner";
import { useBench } from "./benchStore";
import { BodyStrip } from "./BodyStrip";
import { ControlPanel } from "./ControlPanel";
import { DroppedPicture } from "./DroppedPicture";
import { ExportSheet } from "./ExportSheet";
import { Header } from "./Header";
import { LeaveSheet } from "./LeaveSheet";
import { LOOKS, toggled } from "./looks";
import { PictureView } from "./picture/PictureView";
import { PieceStore, usePieceStore } from "./pieceStore";
import { PieceView } from "./PieceView";
import { SectionStrip } from "./SectionStrip";
import { stopOf, stopsOf } from "./stops";
import { Trail } from "./Trail";
import { Turns } from "./Turns";
import { usePiece } from "./usePiece";
import { usePieceMesh } from "./usePieceMesh";
import { useSmall } from "./useSmall";
import { ViewSplit } from "./ViewSplit";
import { Button } from "../shared/Button";

/** The screen where one piece is worked on. */
export default function Bench() {
  const { pieceId = "" } = useParams();
  return (
    <PieceStore key={pieceId} pieceId={pieceId}>
      <OpenBench pieceId={pieceId} />
    </PieceStore>
  );
}

function OpenBench({ pieceId }: { pieceId: string }) {
  const open = usePiece(pieceId);
  const mesh = usePieceMesh(open.piece, open.recipe);
  const [exporting, setExporting] = useState(false);
  const { see, look, setLook, turn } = useBench();
  const { go, stop } = usePieceStore();
  const small = useSmall();
  const late = useLate(mesh.follows);
  const settled = !mesh.follows || mesh.problem !== undefined || mesh.drafting.off;
  const figuresOnce = useOnce(mesh.figures, settled);
  const inner = useArtOf(open.piece, open.recipe, open.edit);
  const { step } = open;
  const stops = open.recipe ? stopsOf(open.recipe) : [];

  // Lengths typed in lines and layers are worth what the piece's printer makes of them.
  const printer = open.recipe?.made_with.printer;
  useEffect(() => {
    if (printer) useUnits.setState({ line_mm: printer.line_mm, layer_mm: printer.layer_mm });
  }, [printer]);

  useShortcuts({
    "ctrl+z": () => step("undo"),
    "ctrl+shift+z": () => step("redo"),
    "ctrl+y": () => step("redo"),
    ...Object.fromEntries(stops.map((stop, index) => [`Digit${index + 1}`, () => go(stop.id)])),
    ...Object.fromEntries(LOOKS.flatMap((one) => (one.key ? [[one.key, () => setLook(toggled(look, one))]] : []))),
    "shift+Digit1": () => see("front"),
    "shift+Digit2": () => see("side"),
    "shift+Digit3": () => see("above"),
    "shift+Digit0": () => see("all"),
    x: () => setExporting(true),
  });
  // What could not be brought up to date while the server was away is asked for again.
  const away = open.trouble !== undefined;
  useEffect(() => {
    if (!away) askAgain();
  }, [away]);

  if (open.loading) return <Spinner role="status" className="m-4" aria-label="Loading the piece" />;
  if (!open.piece || !open.recipe) {
    const { why, remedy } = open.failure ?? {};
    return (
      <EmptyState title="This piece cannot be opened">
        <p>
          {why}. {remedy}.
        </p>
        <Button onClick={open.again}>Try again</Button>
        <Link to="/">
          <Button variant="plain">To the shelf</Button>
        </Link>
      </EmptyState>
    );
  }
  const { piece, recipe } = open;
  const { figures } = mesh;
  const resting = recipe === piece.recipe;
  const art = stopOf(recipe, stop).ofArt ? inner : undefined;
  // A figure is seen beside its picture wherever that is worked on.
  const pictureBeside = hasPicture(piece) && stopOf(recipe, stop).acting ? piece : undefined;
  return (
    <div className={small ? `bench small turn-${turn}` : "bench"}>
      <Header open={open} undoes={piece.undo} redoes={piece.redo} onExport={() => setExporting(true)} />
      <Trail piece={piece} recipe={recipe} figures={figures} mesh={mesh} late={late} inner={inner} />
      <Banner open={open} />
      {small && <Turns picture={hasHeights(recipe) || art !== undefined || pictureBeside !== undefined} />}
      <div className="bench-body">
        <main className="views-and-strip">
          <h1 className="visually-hidden">{open.name}</h1>
          {art ? (
            <>
              <ViewSplit
                left={<PictureView key={art.piece.id} piece={art.piece} recipe={art.recipe} resting={resting} figures={undefined} edit={art.edit} />}
                right={<PieceView piece={piece} mesh={mesh} recipe={recipe} resting={resting} edit={open.edit} beside />}
              />
              <SectionStrip recipe={art.recipe} resting={resting} />
            </>
          ) : hasPicture(piece) && hasHeights(recipe) ? (
            <>
              <ViewSplit
                left={<PictureView key={piece.id} piece={piece} recipe={recipe} resting={resting} figures={figures} edit={open.edit} />}
                right={<PieceView piece={piece} mesh={mesh} recipe={recipe} resting={resting} edit={open.edit} beside />}
              />
              <SectionStrip recipe={recipe} resting={resting} />
            </>
          ) : (
            <>
              {pictureBeside ? (
                <ViewSplit
                  left={<PictureView key={piece.id} piece={pictureBeside} recipe={recipe} resting={resting} figures={figures} edit={open.edit} />}
                  right={<PieceView piece={piece} mesh={mesh} recipe={recipe} resting={resting} edit={open.edit} beside />}
                />
              ) : (
                <div className="views">
                  <div className="view-right whole">
                    <PieceView piece={piece} mesh={mesh} recipe={recipe} resting={resting} edit={open.edit} />
                  </div>
                </div>
              )}
              <BodyStrip piece={piece} recipe={recipe} figures={figures} resting={resting} edit={open.edit} />
            </>
          )}
        </main>
        <AsBefore.Provider value={late ? (settled ? "as before" : "as before: the new figures follow") : undefined}>
          <ControlPanel
            piece={piece}
            recipe={recipe}
            figures={figures}
            figuresOnce={figuresOnce}
            edit={open.edit}
            settle={open.settle}
            resting={resting}
            inner={inner}
          />
        </AsBefore.Provider>
      </div>
      {exporting && (
        <ExportSheet
          piece={piece}
          figures={mesh.follows ? undefined : figures}
          problem={mesh.problem}
          settle={open.settle}
          onClose={() => setExporting(false)}
        />
      )}
      <DroppedPicture piece={piece} recipe={recipe} figuresOnce={figuresOnce} edit={open.edit} />
      <LeaveSheet open={open} />
    </div>
  );
}
