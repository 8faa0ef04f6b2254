import { type PointerEvent, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { ProgressBar } from "react-bootstrap";
import { type Correction, type Figures, type Piece, postForBlob, type Recipe } from "../../api/client";
import { mm, size } from "../../shared/format";
import { showError } from "../../shared/notices";
import { useShortcuts } from "../../shared/useShortcuts";
import { useBench } from "../benchStore";
import { BuildOutlines, EntryHandles } from "../build/BuildHandles";
import { useChart } from "../build/useChart";
import { useOutlines } from "../build/useOutlines";
import type { OpenPiece } from "../usePiece";
import { colourAt, draw, toneReader } from "./draw";
import { type Frame, pxPerMm, screenPerMm, type Spot, toPlace, toScreen, toShare } from "./frame";
import { Handles } from "./Handles";
import { usePictureStore, WHOLE } from "./pictureStore";
import { SectionHandles } from "./SectionHandles";
import { Rulers } from "./Rulers";
import { useCorrected } from "./useCorrected";
import { useSpotHeight } from "./useSpotHeight";
import { KINDS } from "./kinds";

interface Props {
  piece: Piece;
  recipe: Recipe;
  resting: boolean;
  figures: Figures | undefined;
  edit: OpenPiece["edit"];
}

const MARGIN = { left: 44, right: 22, top: 76, bottom: 60 };
const MOST_ZOOM = 64;
const PAINTING = ["paint", "keep", "drop"];

/** The picture as corrected, with rulers in mm, and the tools of the chosen correction. */
export function PictureView({ piece, recipe, resting, figures, edit }: Props) {
  const { split, setSplit, stop, hover, spot: hovered } = useBench();
  const outlines = useOutlines(recipe, resting, stop === "heights");
  const view = usePictureStore();
  const { sight, tool, compare, before, marked, repeated, setSight, setBefore } = view;
  const host = useRef<HTMLElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const trace = useRef<SVGPolylineElement>(null);
  const [room, setRoom] = useState({ width: 0, height: 0 });
  const [spot, setSpot] = useState<Spot>();
  const [mark, setMark] = useState<ImageBitmap>();

  const corrections = recipe.picture.corrections;
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
  const { shown, problem, busy } = useCorrected(wanted);
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
    postForBlob("/api/report/mark.png", { recipe, index: marked }).then(async (blob) => {
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

  // Held down, a key shows the picture as it was brought in.
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (/^(TEXTAREA|SELECT)$/.test(target.tagName)) return;
      if (target.tagName === "INPUT" && !target.matches("[type=range], [type=radio], [type=checkbox]")) return;
      if (event.key.toLowerCase() === "b" && !event.ctrlKey && !event.metaKey && !event.repeat)
        setBefore(event.type === "keydown");
    };
    window.addEventListener("keydown", hear);
    window.addEventListener("keyup", hear);
    return () => {
      window.removeEventListener("keydown", hear);
      window.removeEventListener("keyup", hear);
    };
  }, [setBefore]);

  const zoomAt = (factor: number, [x, y]: Spot) => {
    const zoom = Math.min(MOST_ZOOM, Math.max(1, sight.zoom * factor));
    const real = zoom / sight.zoom;
    if (zoom === 1) return setSight(WHOLE);
    const middleX = MARGIN.left + (room.width - MARGIN.left - MARGIN.right) / 2;
    const middleY = MARGIN.top + (room.height - MARGIN.top - MARGIN.bottom) / 2;
    setSight({
      zoom,
      x: (sight.x - (x - middleX)) * real + (x - middleX),
      y: (sight.y - (y - middleY)) * real + (y - middleY),
    });
  };
  const centre: Spot = [room.width / 2, room.height / 2];
  const keys = {
    "+": () => zoomAt(1.5, centre),
    "-": () => zoomAt(1 / 1.5, centre),
    "0": () => setSight(WHOLE),
    c: () => view.setCompare(compare === undefined ? 0.5 : undefined),
    ",": () => view.setBrush(Math.max(0.1, Number((view.brush / 1.25).toFixed(2)))),
    ".": () => view.setBrush(Math.min(200, Number((view.brush * 1.25).toFixed(2)))),
    Escape: () => view.choose(undefined),
  };
  useShortcuts(keys);
  useWheel(host, (event) => {
    const box = host.current?.getBoundingClientRect();
    if (box) zoomAt(Math.exp(-event.deltaY * 0.0016), [event.clientX - box.left, event.clientY - box.top]);
  });

  function change(next: Correction, still: boolean) {
    edit(
      (now) => ({
        ...now,
        picture: {
          ...now.picture,
          corrections: now.picture.corrections.map((old) => (old.id === next.id ? next : old)),
        },
      }),
      KINDS[next.kind].name.toLowerCase(),
      still,
    );
  }

  const gesture = useRef<{ kind: "pan" | "stroke" | "box"; points: Spot[]; from: Spot; sight: typeof sight }>(undefined);
  const lastEnd = useRef<Spot>(undefined);
  const here = (event: PointerEvent): Spot => {
    const box = host.current?.getBoundingClientRect();
    return [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)];
  };

  function press(event: PointerEvent<HTMLDivElement>) {
    if (!frame) return;
    const from = here(event);
    const paints = PAINTING.includes(tool) || tool === "box";
    const pinning = stop === "heights" && recipe.heights.mapping !== "straight" && tool === "pick";
    if (event.button === 0 && pinning && !event.altKey) {
      pin(from);
      return;
    }
    if (event.button === 1 || tool === "none" || !step || event.altKey) {
      if (event.button > 1) return;
      gesture.current = { kind: "pan", points: [], from, sight };
    } else if (event.button === 0 && paints) {
      const kind = tool === "box" ? "box" : "stroke";
      const join = event.shiftKey && kind === "stroke" && lastEnd.current;
      gesture.current = { kind, points: join ? [join, from] : [from], from, sight };
      follow();
    } else if (event.button === 0) {
      click(from);
      return;
    }
    event.currentTarget.setPointerCapture(event.pointerId);
  }

  function move(event: PointerEvent<HTMLDivElement>) {
    const at = here(event);
    setSpot(at);
    if (frame && stop !== "picture") {
      const [u, v] = toShare(frame, at);
      hover(u >= 0 && u <= 1 && v >= 0 && v <= 1 ? [u, v] : undefined);
    }
    const now = gesture.current;
    if (!now) return;
    if (now.kind === "pan") {
      setSight({ ...now.sight, x: now.sight.x + at[0] - now.from[0], y: now.sight.y + at[1] - now.from[1] });
      return;
    }
    if (now.kind === "box" || event.shiftKey) now.points = [now.points[0], at];
    else {
      const last = now.points[now.points.length - 1];
      if (Math.hypot(at[0] - last[0], at[1] - last[1]) >= 1.5) now.points.push(at);
    }
    follow();
  }

  /** Draw the gesture under way at once, before anything is computed. */
  function follow() {
    const now = gesture.current;
    if (!now || !trace.current || !frame) return;
    const { points, kind } = now;
    const [a, b] = [points[0], points[points.length - 1]];
    const line = kind === "box" ? [a, [b[0], a[1]], b, [a[0], b[1]], a] : points.length > 1 ? points : [a, a];
    trace.current.setAttribute("points", line.map((p) => p.join(",")).join(" "));
    trace.current.setAttribute(
      "stroke-width",
      String(kind === "box" ? 1.5 : Math.max(1, view.brush * screenPerMm(frame))),
    );
  }

  function release() {
    const now = gesture.current;
    gesture.current = undefined;
    if (!now || !frame || !step || now.kind === "pan") return;
    const places = now.points.map((point) => toPlace(frame, point));
    if (now.kind === "box") {
      if (step.kind !== "isolate" || places.length < 2) return;
      const [[x0, y0], [x1, y1]] = places;
      const box = { x: Math.min(x0, x1), y: Math.min(y0, y1), wide: Math.abs(x1 - x0), tall: Math.abs(y1 - y0) };
      if (box.wide < 1 || box.tall < 1) return;
      change({ ...step, box }, true);
      view.setTool("keep");
      return;
    }
    lastEnd.current = now.points[now.points.length - 1];
    const stroke = { points: places, wide: Number((view.brush * pxPerMm(frame)).toFixed(2)) };
    if (step.kind === "isolate" && tool === "keep") change({ ...step, keep: [...step.keep, stroke] }, true);
    else if (step.kind === "isolate") change({ ...step, drop: [...step.drop, stroke] }, true);
    else if (step.kind === "remove" || step.kind === "brush")
      change({ ...step, strokes: [...step.strokes, stroke] }, true);
  }

  /** Pin the tone of a spot to the height that it has now. */
  function pin(at: Spot) {
    if (!frame || !readTone || !corrected) return;
    const [u, v] = toShare(frame, at);
    if (u < 0 || u > 1 || v < 0 || v > 1) return;
    const tone = Number(readTone(u, v).toFixed(3));
    const { pins } = recipe.heights;
    if (pins.some((other) => Math.abs(other.tone - tone) < 0.004)) return;
    const height = (chart?.[Math.round(tone * 255)] ?? 0) - recipe.heights.backing.mm;
    const next = [...pins, { tone, mm: { mm: Number(Math.max(0, height).toFixed(2)) } }];
    edit(
      (now) => ({ ...now, heights: { ...now.heights, pins: next.sort((a, b) => a.tone - b.tone) } }),
      "pin a tone",
      true,
    );
  }

  function click(at: Spot) {
    if (!frame || !step || !shown) return;
    const place = toPlace(frame, at);
    const [u, v] = toShare(frame, at);
    if (u < 0 || u > 1 || v < 0 || v > 1) return;
    if (step.kind === "true_size" && (tool === "first" || tool === "second")) {
      change({ ...step, measure: "between", [tool]: place }, tool === "second");
      view.setTool(tool === "first" ? "second" : "none");
    } else if (step.kind === "isolate") change({ ...step, places: [...step.places, place] }, true);
    else if (step.kind === "fill") change({ ...step, at: place }, true);
    else if (step.kind === "remove") {
      change({ ...step, source: place }, true);
      view.setTool("paint");
    } else if (step.kind === "brush" && tool === "axis") {
      change({ ...step, mirror_x: place[0] }, true);
      view.setTool("paint");
    } else if (step.kind === "tone_steps" && readTone) {
      const tones = [...step.tones, Number(readTone(u, v).toFixed(3))].sort((a, b) => a - b);
      change({ ...step, tones }, true);
    } else if (step.kind === "read_from" && shown.before) {
      const colour = colourAt(shown.before, u, v).map((value) => Number(value.toFixed(3)));
      change({ ...step, colour: colour as [number, number, number] }, true);
    }
  }

  const share = frame && spot ? toShare(frame, spot) : undefined;
  const inside = share && share.every((value) => value >= 0 && value <= 1);
  const tone = inside && readTone ? readTone(share[0], share[1]) : undefined;
  const chart = useChart(recipe);
  const height = useSpotHeight(recipe, inside ? share : undefined, resting && !busy);
  const brushPx = frame ? view.brush * screenPerMm(frame) : 0;
  const painting = step && PAINTING.includes(tool);

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
        <button type="button" className="chip" onClick={() => setSplit(split === 1 ? 0.44 : 1)}>
          {split === 1 ? "both views" : "fill"}
        </button>
      </div>
      <canvas ref={canvas} className="picture-canvas" aria-hidden="true" />
      <div
        className="picture-surface"
        role="application"
        aria-label={`${piece.picture.filename}, corrected`}
        data-frame={frame && [frame.left, frame.top, frame.width, frame.height].join(" ")}
        style={{ cursor: painting ? "none" : tool === "none" || (!step && stop === "picture") ? "grab" : "crosshair" }}
        onPointerDown={press}
        onPointerMove={move}
        onPointerUp={release}
        onPointerCancel={() => {
          gesture.current = undefined;
        }}
        onPointerLeave={() => {
          setSpot(undefined);
          hover(undefined);
        }}
        onDoubleClick={() => tool === "none" && setSight(WHOLE)}
      />
      {frame && shown && (
        <svg className="picture-overlay" width={room.width} height={room.height} aria-hidden="true">
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
      {/* Beside it the piece view says the same. */}
      {problem && split === 1 && (
        <div className="problem" role="alert">
          <strong>{problem.what}</strong>: {problem.why}. {problem.remedy}.
        </div>
      )}
      {busy && <ProgressBar animated now={100} className="picture-busy" aria-label="Correcting the picture" />}
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
          <button type="button" className="chip" aria-label="Zoom out" onClick={() => zoomAt(1 / 1.5, centre)}>
            −
          </button>
          <button type="button" className="chip mono" aria-label="See all of the picture" onClick={() => setSight(WHOLE)}>
            {sight.zoom === 1 ? "whole" : `× ${mm(sight.zoom, 1)}`}
          </button>
          <button type="button" className="chip" aria-label="Zoom in" onClick={() => zoomAt(1.5, centre)}>
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

/** React listens to the wheel passively; zooming must keep the page still. */
function useWheel(host: { current: HTMLElement | null }, turned: (event: WheelEvent) => void) {
  const newest = useRef(turned);
  useEffect(() => {
    newest.current = turned;
  });
  useEffect(() => {
    const element = host.current;
    if (!element) return;
    const hear = (event: WheelEvent) => {
      event.preventDefault();
      newest.current(event);
    };
    element.addEventListener("wheel", hear, { passive: false });
    return () => element.removeEventListener("wheel", hear);
  }, [host]);
}
