import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Figures, PieceOfHeights, Recipe } from "../../api/client";
import { COLOURS } from "../../shared/colours";
import { Progress } from "../../shared/Progress";
import { useHeldKey } from "../../shared/useHeldKey";
import { useRoom } from "../../shared/useRoom";
import { useShortcuts } from "../../shared/useShortcuts";
import { change as changeAt } from "../at";
import { useBench } from "../benchStore";
import { usePieceStore } from "../pieceStore";
import { type HandlesProps, type Step, wordOf } from "../steps/kinds";
import { stopOf } from "../stops";
import type { OpenPiece } from "../usePiece";
import { CompareHandle } from "./CompareHandle";
import { draw } from "./draw";
import { type Frame, screenPerMm, type Spot, toScreen } from "./frame";
import { Readout } from "./Readout";
import { Rulers } from "./Rulers";
import { SectionHandles } from "./SectionHandles";
import { SightBar } from "./SightBar";
import { type Shown, useCorrected } from "./useCorrected";
import { useFrame } from "./useFrame";
import { useMark } from "./useMark";
import { useSeen } from "./useSeen";
import { useTools } from "./useTools";
import { MARGIN, useZoom } from "./useZoom";

/** Drawn wider than this, px, a picture is asked for in all its pixels. */
const COARSE_PX = 1100;
const REST_MS = 250;

interface Props {
  piece: PieceOfHeights;
  recipe: Recipe;
  resting: boolean;
  figures: Figures | undefined;
  edit: OpenPiece["edit"];
}

/** The picture as corrected, with rulers in mm, and the tools and grips of the chosen step. */
export function PictureView({ piece, recipe, resting, figures, edit }: Props) {
  const { split, setSplit } = useBench();
  const view = usePieceStore();
  const { stop: at, compare, before, repeated, setBefore, spot: hovered } = view;
  const host = useRef<HTMLElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const trace = useRef<SVGPolylineElement>(null);
  const room = useRoom(host);

  const { id: stop, acting, Under, bare } = stopOf(recipe, at);
  const steps = acting?.place.read(recipe) ?? [];
  const index = steps.findIndex((one) => one.id === view.chosen[acting?.list ?? ""]);
  const step = index < 0 ? undefined : steps[index];
  const kind = step && acting?.kindOf(step);
  const upto = step?.enabled && kind?.drawnBefore ? index : null;
  const comparing = before || compare !== undefined;

  const [fine, setFine] = useState(false);
  const wanted = useMemo(
    () => ({ recipe, upto, quality: fine && resting ? ("full" as const) : ("screen" as const), before: comparing }),
    [recipe, upto, fine, resting, comparing],
  );
  const { shown: plain, busy } = useCorrected(wanted);
  const shown = useMemo(() => (stop === "figure" ? inItsOwnMm(plain, recipe, figures) : plain), [stop, plain, recipe, figures]);
  const corrected = shown?.corrected;
  const frame = useFrame(corrected, room);
  const mark = useMark(recipe);
  const figure = bare && recipe.begins.kind === "figure";
  const laid = figure ? view.laid : undefined;
  const { seen, busy: looking } = useSeen(recipe, resting, laid);

  const shownCols = shown?.pixels.width ?? 0;
  const wantsFine = Boolean(frame && corrected && frame.width > 1.3 * Math.min(COARSE_PX, shownCols) && corrected.cols > COARSE_PX);
  useEffect(() => {
    const timer = window.setTimeout(() => setFine(wantsFine), REST_MS);
    return () => window.clearTimeout(timer);
  }, [wantsFine]);

  useLayoutEffect(() => {
    if (!canvas.current || !shown || !frame) return;
    draw(canvas.current, { shown, frame, first: before ? 1 : (compare ?? 0), mark, seen, repeated });
  }, [shown, frame, before, compare, mark, seen, repeated]);

  // The stroke just drawn stays until the picture that holds it has come.
  useEffect(() => trace.current?.setAttribute("points", ""), [shown]);

  const word = kind && step ? wordOf(kind, step) : "";
  const change: HandlesProps<Step>["change"] = (part, still, label = word) => {
    if (acting && step)
      edit(
        changeAt(acting.place, (now) => now.map((old) => (old.id === step.id ? { ...old, ...part } : old))),
        label,
        still,
      );
  };
  const zoom = useZoom(host, room);
  const { spot, tool, painting, handlers } = useTools({ step, kind, recipe, hovering: !bare, frame, shown, trace, change });
  useHeldKey("b", setBefore);
  useShortcuts({
    "+": zoom.closer,
    "-": zoom.further,
    "0": zoom.whole,
    c: () => view.setCompare(compare === undefined ? 0.5 : undefined),
    ",": () => view.setBrush(Math.max(0.1, Number((view.brush / 1.25).toFixed(2)))),
    ".": () => view.setBrush(Math.min(200, Number((view.brush * 1.25).toFixed(2)))),
    Escape: () => bare && acting && view.choose(acting.list, undefined),
  });
  const brushPx = frame ? view.brush * screenPerMm(frame) : 0;
  const ink = (tool?.by === "stroke" && tool.colour) || COLOURS.madder;

  return (
    <section className="view picture-view" ref={host} aria-label="Picture view" aria-busy={busy || looking} data-busy={busy || looking}>
      <div className="view-bar">
        <span className="view-name">{before ? "Picture, as brought in" : "Picture"}</span>
        <button
          type="button"
          className="chip"
          aria-pressed={compare !== undefined}
          title="Before and after, side by side (C); hold B to see the picture as brought in"
          onClick={() => view.setCompare(compare === undefined ? 0.5 : undefined)}
        >
          compare
        </button>
        {figure &&
          (["figure", "difference"] as const).map((part) => (
            <button
              key={part}
              type="button"
              className="chip"
              aria-pressed={laid === part}
              title={part === "figure" ? "The figure from the picture’s own view, over it; compare divides the two" : "Where the outlines of both differ"}
              onClick={() => view.setLaid(laid === part ? undefined : part)}
            >
              {part}
            </button>
          ))}
        <button type="button" className="chip fill-chip" onClick={() => setSplit(split === 1 ? 0.44 : 1)}>
          {split === 1 ? "both views" : "fill"}
        </button>
      </div>
      <canvas ref={canvas} className="picture-canvas" aria-hidden="true" />
      <div
        className="picture-surface"
        role="application"
        aria-label={`${piece.picture.filename}, corrected`}
        data-frame={frame && [frame.left, frame.top, frame.width, frame.height].join(" ")}
        style={{ cursor: painting ? "none" : tool ? "crosshair" : "grab" }}
        tabIndex={0}
        {...handlers}
        onDoubleClick={() => !tool && zoom.whole()}
      />
      {frame && shown && (
        <svg className="picture-overlay" width={room.width} height={room.height} role="group" aria-label="Grips in the picture">
          <Rulers frame={frame} room={room} edge={MARGIN} />
          {!repeated && Under && <Under recipe={recipe} resting={resting} figures={figures} frame={frame} edit={edit} />}
          {!repeated && !bare && <SectionHandles frame={frame} />}
          {hovered && !spot && <HoverMark frame={frame} spot={hovered} />}
          {!repeated && step && kind?.Handles && <kind.Handles {...{ step, word, recipe, resting, frame, shown, change }} />}
          <polyline
            ref={trace}
            fill="none"
            stroke={ink}
            strokeOpacity={tool?.by === "box" ? 1 : 0.55}
            strokeLinecap="round"
            strokeLinejoin="round"
            pointerEvents="none"
          />
          {painting && spot && <circle cx={spot[0]} cy={spot[1]} r={Math.max(2, brushPx / 2)} fill="none" stroke={COLOURS.madder} pointerEvents="none" />}
        </svg>
      )}
      {frame && compare !== undefined && <CompareHandle frame={frame} />}
      {busy && <Progress className="picture-busy" label="Correcting the picture" />}
      {looking && <Progress className="picture-busy" label="Looking at the figure from the front" />}
      {frame && shown && <Readout recipe={recipe} spot={spot} frame={frame} shown={shown} still={resting && !busy} />}
      {corrected && <SightBar corrected={corrected} zoom={zoom} />}
    </section>
  );
}

/** A picture of a figure in millimetres of that, so that its rulers and brushes are. */
function inItsOwnMm(shown: Shown | undefined, recipe: Recipe, figures: Figures | undefined): Shown | undefined {
  const tall = figures?.figure?.box[3];
  if (!shown || !tall || recipe.begins.kind !== "figure") return shown;
  const { cols, rows } = shown.corrected;
  const tall_mm = recipe.begins.tall.mm / tall;
  return { ...shown, corrected: { ...shown.corrected, tall_mm, wide_mm: (tall_mm * (cols - 1)) / Math.max(1, rows - 1) } };
}

/** Where the pointer is in the other view. */
function HoverMark({ frame, spot }: { frame: Frame; spot: Spot }) {
  const [x, y] = toScreen(frame, spot);
  return <circle cx={x} cy={y} r="5" fill="none" stroke={COLOURS.madder} strokeWidth="2" pointerEvents="none" />;
}
