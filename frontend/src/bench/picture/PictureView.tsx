import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { type Correction, type Figures, type Piece, postForBlob, type Recipe } from "../../api/client";
import { Progress } from "../../shared/Progress";
import { mm, size } from "../../shared/format";
import { showError } from "../../shared/notices";
import { isTyping, keysAreTaken, useShortcuts } from "../../shared/useShortcuts";
import { change as changeAt, corrections as correctionsAt } from "../at";
import { useBench } from "../benchStore";
import { BuildOutlines, EntryHandles } from "../build/BuildHandles";
import { useOutlines } from "../build/useOutlines";
import type { OpenPiece } from "../usePiece";
import { draw, toneReader } from "./draw";
import { type Frame, screenPerMm, type Spot, toScreen, toShare } from "./frame";
import { Handles } from "./Handles";
import { usePictureStore } from "./pictureStore";
import { SectionHandles } from "./SectionHandles";
import { Rulers } from "./Rulers";
import { useCorrected } from "./useCorrected";
import { useSpotHeight } from "./useSpotHeight";
import { useTools } from "./useTools";
import { MARGIN, useZoom } from "./useZoom";
import { KINDS } from "./kinds";

interface Props {
  piece: Piece;
  recipe: Recipe;
  resting: boolean;
  figures: Figures | undefined;
  edit: OpenPiece["edit"];
}

/** The picture as corrected, with rulers in mm, and the tools of the chosen correction. */
export function PictureView({ piece, recipe, resting, figures, edit }: Props) {
  const { split, setSplit, stop, spot: hovered } = useBench();
  const outlines = useOutlines(recipe, resting, stop === "heights");
  const view = usePictureStore();
  const { sight, compare, before, marked, repeated, setBefore } = view;
  const host = useRef<HTMLElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const trace = useRef<SVGPolylineElement>(null);
  const [room, setRoom] = useState({ width: 0, height: 0 });
  const [mark, setMark] = useState<ImageBitmap>();

  const corrections = correctionsAt.read(recipe);
  const index = stop === "picture" ? corrections.findIndex((step) => step.id === view.chosen) : -1;
  const step = index < 0 ? undefined : corrections[index];
  const comparing = before || compare !== undefined;
  // A crop is drawn in the picture as it stands before it.
  const upto = step?.kind === "crop" && step.enabled ? index : null;

  const [fine, setFine] = useState(false);
  const wanted = useMemo(
    () => ({ recipe, upto, quality: fine && resting ? "full" as const : "screen" as const, before: comparing }),
    [recipe, upto, fine, resting, comparing],
  );
  const { shown, busy } = useCorrected(wanted);
  const corrected = shown?.corrected;

  useEffect(() => {
    if (!host.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry.contentRect;
      setRoom({ width, height });
    });
    observer.observe(host.current);
    return () => observer.disconnect();
  }, []);

  const frame = useMemo<Frame | undefined>(() => {
    if (!corrected || room.width === 0) return undefined;
    const spaceX = room.width - MARGIN.left - MARGIN.right;
    const spaceY = room.height - MARGIN.top - MARGIN.bottom;
    const fit = Math.max(0.01, Math.min(spaceX / corrected.wide_mm, spaceY / corrected.tall_mm));
    const width = corrected.wide_mm * fit * sight.zoom;
    const height = corrected.tall_mm * fit * sight.zoom;
    return {
      left: MARGIN.left + (spaceX - width) / 2 + sight.x,
      top: MARGIN.top + (spaceY - height) / 2 + sight.y,
      width,
      height,
      wideMm: corrected.wide_mm,
      tallMm: corrected.tall_mm,
      cols: corrected.cols,
      rows: corrected.rows,
      place: corrected.place,
    };
  }, [corrected, room, sight]);

  const shownCols = shown?.pixels.width ?? 0;
  const wantsFine = Boolean(
    frame && corrected && frame.width > 1.3 * Math.min(1100, shownCols) && corrected.cols > 1100,
  );
  useEffect(() => {
    const timer = window.setTimeout(() => setFine(wantsFine), 250);
    return () => window.clearTimeout(timer);
  }, [wantsFine]);

  useLayoutEffect(() => {
    if (!canvas.current || !shown || !frame) return;
    draw(canvas.current, { shown, frame, first: before ? 1 : (compare ?? 0), mark, repeated });
  }, [shown, frame, before, compare, mark, repeated]);

  // The stroke just drawn stays until the picture that holds it has come.
  useEffect(() => trace.current?.setAttribute("points", ""), [shown]);

  useEffect(() => {
    setMark(undefined);
    if (marked === undefined) return;
    let dropped = false;
    postForBlob("/api/report/mark.png", { recipe, key: marked }).then(async (blob) => {
      const bitmap = await createImageBitmap(blob);
      if (!dropped) setMark(bitmap);
    }, showError);
    return () => {
      dropped = true;
    };
    // The mark belongs to the report of the recipe at the time it was asked for.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [marked]);

  const readTone = useMemo(() => (shown ? toneReader(shown.pixels) : undefined), [shown]);
  useHeldKey("b", setBefore);
  const zoom = useZoom(host, room);

  function change(next: Correction, still: boolean) {
    edit(
      changeAt(correctionsAt, (list) => list.map((old) => (old.id === next.id ? next : old))),
      KINDS[next.kind].name.toLowerCase(),
      still,
    );
  }

  const { spot, tool, painting, handlers } = useTools({ recipe, stop, step, frame, shown, trace, change, edit });
  useShortcuts({
    "+": zoom.closer,
    "-": zoom.further,
    "0": zoom.whole,
    c: () => view.setCompare(compare === undefined ? 0.5 : undefined),
    ",": () => view.setBrush(Math.max(0.1, Number((view.brush / 1.25).toFixed(2)))),
    ".": () => view.setBrush(Math.min(200, Number((view.brush * 1.25).toFixed(2)))),
    Escape: () => stop === "picture" && view.choose(undefined),
  });
  const share = frame && spot ? toShare(frame, spot) : undefined;
  const inside = share && share.every((value) => value >= 0 && value <= 1);
  const tone = inside && readTone ? readTone(share[0], share[1]) : undefined;
  const height = useSpotHeight(recipe, inside ? share : undefined, resting && !busy);
  const brushPx = frame ? view.brush * screenPerMm(frame) : 0;

  return (
    <section className="view picture-view" ref={host} aria-label="Picture view" aria-busy={busy} data-busy={busy}>
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
        style={{ cursor: painting ? "none" : tool === "none" ? "grab" : "crosshair" }}
        tabIndex={0}
        {...handlers}
        onDoubleClick={() => tool === "none" && zoom.whole()}
      />
      {frame && shown && (
        <svg className="picture-overlay" width={room.width} height={room.height} role="group" aria-label="Grips in the picture">
          <Rulers frame={frame} room={room} edge={MARGIN} />
          {!repeated && stop === "heights" && (
            <BuildOutlines recipe={recipe} figures={figures} outlines={outlines} frame={frame} />
          )}
          {!repeated && stop !== "picture" && <SectionHandles frame={frame} />}
          {!repeated && stop === "heights" && (
            <EntryHandles recipe={recipe} outlines={outlines} frame={frame} edit={edit} />
          )}
          {hovered && !spot && <HoverMark frame={frame} spot={hovered} />}
          {!repeated && <Handles step={step} frame={frame} shown={shown} change={change} />}
          <polyline
            ref={trace}
            fill="none"
            stroke={tool === "drop" ? "#B23A22" : tool === "keep" ? "#5E7A3A" : "#9A2B45"}
            strokeOpacity={tool === "box" ? 1 : 0.55}
            strokeLinecap="round"
            strokeLinejoin="round"
            pointerEvents="none"
          />
          {painting && spot && (
            <circle cx={spot[0]} cy={spot[1]} r={Math.max(2, brushPx / 2)} fill="none" stroke="#9A2B45" pointerEvents="none" />
          )}
        </svg>
      )}
      {frame && compare !== undefined && <CompareHandle frame={frame} />}
      {busy && <Progress className="picture-busy" label="Correcting the picture" />}
      {inside && corrected && tone !== undefined && (
        <span className="chip mono readout" role="status">
          {mm(share[0] * corrected.wide_mm, 1)}, {mm((1 - share[1]) * corrected.tall_mm, 1)} mm
          {" · "}
          {Math.round(share[0] * (corrected.cols - 1))}, {Math.round(share[1] * (corrected.rows - 1))} px
          {" · tone "}
          {tone.toFixed(2)}
          {height && ` · ${height.there ? `${mm(height.height_mm)} mm` : "cut through"}`}
        </span>
      )}
      {corrected && (
        <div className="view-bar low">
          <span className="mono quiet me-auto view-size">
            {size(corrected.wide_mm, corrected.tall_mm)}, {mm((corrected.cols - 1) / corrected.wide_mm, 1)} px per mm
            {corrected.transparent && `, ${mm((1 - corrected.kept) * 100, 0)} % dropped`}
          </span>
          <button type="button" className="chip" aria-label="Zoom out" onClick={zoom.further}>
            −
          </button>
          <button type="button" className="chip mono" aria-label={`${sight.zoom === 1 ? "whole" : `× ${mm(sight.zoom, 1)}`}, see all of the picture`} onClick={zoom.whole}>
            {sight.zoom === 1 ? "whole" : `× ${mm(sight.zoom, 1)}`}
          </button>
          <button type="button" className="chip" aria-label="Zoom in" onClick={zoom.closer}>
            +
          </button>
        </div>
      )}
    </section>
  );
}

/** Where the pointer is in the other view. */
function HoverMark({ frame, spot }: { frame: Frame; spot: Spot }) {
  const [x, y] = toScreen(frame, spot);
  return <circle cx={x} cy={y} r="5" fill="none" stroke="#9A2B45" strokeWidth="2" pointerEvents="none" />;
}

/** The divider between before, on its left, and after. */
function CompareHandle({ frame }: { frame: Frame }) {
  const { compare = 0.5, setCompare } = usePictureStore();
  const place = (share: number) => setCompare(Math.min(1, Math.max(0, share)));
  return (
    <div
      className="compare-handle"
      role="slider"
      tabIndex={0}
      aria-label="Before and after"
      aria-valuenow={Math.round(compare * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      style={{ left: frame.left + compare * frame.width, top: frame.top, height: frame.height }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
        const box = event.currentTarget.parentElement?.getBoundingClientRect();
        if (box) place((event.clientX - box.left - frame.left) / frame.width);
      }}
      onKeyDown={(event) => {
        if (event.key === "ArrowLeft") place(compare - 0.02);
        if (event.key === "ArrowRight") place(compare + 0.02);
      }}
    >
      <span>before</span>
      <span>after</span>
    </div>
  );
}

/** Held down, a key shows something for as long; it is let go when the window is left. */
function useHeldKey(key: string, hold: (held: boolean) => void) {
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== key || event.ctrlKey || event.metaKey || event.repeat) return;
      if (event.type === "keyup") hold(false);
      else if (!isTyping(event.target) && !keysAreTaken()) hold(true);
    };
    const leave = () => hold(false);
    window.addEventListener("keydown", hear);
    window.addEventListener("keyup", hear);
    window.addEventListener("blur", leave);
    return () => {
      window.removeEventListener("keydown", hear);
      window.removeEventListener("keyup", hear);
      window.removeEventListener("blur", leave);
    };
  }, [key, hold]);
}
