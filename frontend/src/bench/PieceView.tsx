import { Canvas } from "@react-three/fiber";
import { useState } from "react";
import { Spinner } from "react-bootstrap";
import type { Piece, Recipe } from "../api/client";
import { EmptyState } from "../shared/EmptyState";
import { ErrorBoundary } from "../shared/ErrorBoundary";
import { Progress } from "../shared/Progress";
import { type NamedView, useBench } from "./benchStore";
import { drawsInSoftware, softwarePixels } from "./drawsInSoftware";
import { LOOKS, lookOf, offered, toggled } from "./looks";
import { surface } from "./looks/surface";
import { MeasureBar } from "./Pointing";
import { PieceScene } from "./PieceScene";
import { usePieceStore } from "./pieceStore";
import { ScaleBar } from "./ScaleBar";
import { TrialView } from "./TrialView";
import type { OpenPiece } from "./usePiece";
import type { PieceMesh } from "./usePieceMesh";
import { Button } from "../shared/Button";

// Drawn without a graphics card, smoothing every frame of a drag costs more than drawing it;
// there the piece is drawn finer once it rests.
const SOFTWARE = drawsInSoftware();

const VIEWS: NamedView[] = ["front", "side", "above", "all"];

/** The piece in 3D: turned, shifted, zoomed, seen from named sides. */
interface Props {
  piece: Piece;
  mesh: PieceMesh;
  recipe: Recipe;
  resting: boolean;
  edit: OpenPiece["edit"];
  /** A picture is seen beside it. */
  beside?: boolean;
}

export function PieceView({ piece, mesh, recipe, resting, edit, beside = false }: Props) {
  const { look, setLook, see, split, setSplit, turning, setTurning } = useBench();
  const [pxPerMm, setPxPerMm] = useState(0);
  const { shown, work, problem } = mesh;
  const figures = shown?.figures;
  const chosen = lookOf(look);
  const seen = offered(chosen, look, recipe, figures) ? chosen : surface;
  const trial = usePieceStore((state) => state.trial);
  if (trial && figures) return <TrialView trial={trial} recipe={recipe} figures={figures} edit={edit} />;
  return (
    <section className={`view piece-view ${seen.dark ? "before-lamp" : ""}`} aria-label="Piece view" aria-busy={shown?.recipe !== recipe && !problem}>
      <div className="view-bar">
        <span className="view-name">Piece{shown?.figures.quality === "draft" && !problem ? ", draft" : ""}</span>
        {LOOKS.filter((one) => offered(one, look, recipe, figures)).map((one) => (
          <button
            key={one.id}
            type="button"
            className="chip"
            aria-pressed={seen.id === one.id}
            title={one.title}
            onClick={() => setLook(one.beside ? toggled(look, one) : one.id)}
          >
            {one.words}
          </button>
        ))}
        {beside && (
          <button type="button" className="chip fill-chip" onClick={() => setSplit(split === 0 ? 0.44 : 0)}>
            {split === 0 ? "both views" : "fill"}
          </button>
        )}
      </div>
      {shown ? (
        <ErrorBoundary
          instead={
            <EmptyState title="The piece cannot be drawn in this browser">
              <p>It has no WebGL 2. Figures and export work all the same.</p>
            </EmptyState>
          }
        >
          <Canvas
            frameloop="demand"
            dpr={SOFTWARE ? softwarePixels(shown.figures.quality === "full" ? 1.5 : 1) : [1, 2]}
            gl={{ antialias: !SOFTWARE }}
            camera={{ fov: 26, up: [0, 0, 1], near: 1, far: 5000 }}
          >
            <PieceScene piece={piece} shown={shown} proxy={mesh.proxy} look={seen} recipe={recipe} resting={resting} onScale={setPxPerMm} edit={edit} />
          </Canvas>
        </ErrorBoundary>
      ) : (
        <div className="view-kept">
          <img src={`/api/pieces/${piece.id}/thumbnail.png?r=${piece.revision}`} alt="" onError={({ currentTarget }) => (currentTarget.hidden = true)} />
          {!work && (
            <EmptyState title={problem ? "The piece could not be made" : "Making the piece"}>
              {!problem && <Spinner role="status" aria-label="Working" className="mt-3" />}
            </EmptyState>
          )}
        </div>
      )}
      {work && (
        <div className="working" role="status">
          <span className="text-nowrap">{work.step || "starting"}</span>
          <Progress now={Math.max(4, work.done * 100)} label="Progress" />
          <Button size="sm" variant="plain" onClick={mesh.cancel}>
            Cancel
          </Button>
        </div>
      )}
      {mesh.drafting.long && (
        <div className="working" role="status">
          <span className="me-auto">Making the draft</span>
          <Button size="sm" variant="plain" onClick={mesh.drafting.callOff}>
            Cancel
          </Button>
        </div>
      )}
      {mesh.drafting.off && (
        <div className="working" role="status">
          <span className="me-auto">Shown as it was before; the draft was called off.</span>
          <Button size="sm" variant="plain" className="text-nowrap" onClick={mesh.again}>
            Make it
          </Button>
        </div>
      )}
      {mesh.calledOff && !mesh.drafting.off && (
        <div className="working" role="status">
          <span className="me-auto">This is the draft; full quality was called off.</span>
          <Button size="sm" variant="plain" className="text-nowrap" onClick={mesh.again}>
            Make it
          </Button>
        </div>
      )}
      <div className="view-bar low">
        {VIEWS.map((name) => (
          <button key={name} type="button" className="chip" onClick={() => see(name)}>
            {name}
          </button>
        ))}
        <button type="button" className="chip" aria-pressed={turning} title="The piece goes round slowly" onClick={() => setTurning(!turning)}>
          turntable
        </button>
        <MeasureBar />
      </div>
      {seen.Legend && <seen.Legend piece={piece} recipe={recipe} resting={resting} />}
      <ScaleBar pxPerMm={pxPerMm} />
    </section>
  );
}
