import { type KeyboardEvent, type PointerEvent, type RefObject, useEffect, useRef, useState } from "react";
import type { Correction, Recipe } from "../../api/client";
import { keysAreTaken } from "../../shared/useShortcuts";
import { art, put, tones } from "../at";
import { type Stop, useBench } from "../benchStore";
import { useHeightOf } from "../build/useChart";
import type { OpenPiece } from "../usePiece";
import { colourAt, toneReader } from "./draw";
import { arrowStep, arrowWay, type Frame, fromPlace, pxPerMm, screenPerMm, type Spot, toPlace, toShare } from "./frame";
import { type Sight, type Tool, usePictureStore } from "./pictureStore";
import type { Shown } from "./useCorrected";

const PAINTING: Tool[] = ["paint", "keep", "drop"];

interface Gesture {
  kind: "pan" | "stroke" | "box";
  points: Spot[];
  from: Spot;
  sight: Sight;
}

interface Options {
  recipe: Recipe;
  stop: Stop;
  step: Correction | undefined;
  frame: Frame | undefined;
  shown: Shown | undefined;
  /** The line that shows a gesture under way. */
  trace: RefObject<SVGPolylineElement | null>;
  change: (next: Correction, resting: boolean) => void;
  edit: OpenPiece["edit"];
}

/** Which tool acts at a stop: those of corrections at Picture, the pin at Heights, where there are pins. */
function toolAt(stop: Stop, tool: Tool, step: Correction | undefined, recipe: Recipe): Tool {
  const { mapping } = tones.read(recipe);
  const pins = mapping === "chart" || mapping === "plateaus";
  if (stop === "heights") return tool === "pin" && pins ? tool : "none";
  return stop === "picture" && step && tool !== "pin" ? tool : "none";
}

/** What the pointer and the keys do in the picture: move it about, or what the chosen tool does. */
export function useTools({ recipe, stop, step, frame, shown, trace, change, edit }: Options) {
  const view = usePictureStore();
  const hover = useBench((state) => state.hover);
  const [spot, setSpot] = useState<Spot>();
  const gesture = useRef<Gesture>(undefined);
  /** Where the last stroke of a brush ended, as a place of the picture. */
  const lastEnd = useRef<{ of: string; place: Spot }>(undefined);
  const tool = toolAt(stop, view.tool, step, recipe);
  const brush = `${step?.id} ${tool}`;
  const heightOf = useHeightOf(recipe);
  const painting = PAINTING.includes(tool);

  /** Draw the gesture under way at once, before anything is computed. */
  function follow() {
    const now = gesture.current;
    if (!now || !trace.current || !frame) return;
    const { points, kind } = now;
    const [a, b] = [points[0], points[points.length - 1]];
    const line = kind === "box" ? [a, [b[0], a[1]], b, [a[0], b[1]], a] : points.length > 1 ? points : [a, a];
    trace.current.setAttribute("points", line.map((p) => p.join(",")).join(" "));
    const wide = kind === "box" ? 1.5 : Math.max(1, view.brush * screenPerMm(frame));
    trace.current.setAttribute("stroke-width", String(wide));
  }

  /** Begin what the tool does; whether it goes on until it is let go. */
  function begin(from: Spot, pan: boolean, straight: boolean): boolean {
    if (!frame) return false;
    if (pan || tool === "none") {
      gesture.current = { kind: "pan", points: [], from, sight: view.sight };
    } else if (painting || tool === "box") {
      const kind = tool === "box" ? "box" : "stroke";
      const join = straight && kind === "stroke" && lastEnd.current?.of === brush;
      const start = join && lastEnd.current ? fromPlace(frame, lastEnd.current.place) : from;
      gesture.current = { kind, points: join ? [start, from] : [from], from, sight: view.sight };
      follow();
    } else {
      click(from);
      return false;
    }
    return true;
  }

  function go(at: Spot, straight: boolean) {
    setSpot(at);
    if (frame && stop !== "picture") {
      const [u, v] = toShare(frame, at);
      hover(u >= 0 && u <= 1 && v >= 0 && v <= 1 ? [u, v] : undefined);
    }
    const now = gesture.current;
    if (!now) return;
    if (now.kind === "pan") {
      view.setSight({ ...now.sight, x: now.sight.x + at[0] - now.from[0], y: now.sight.y + at[1] - now.from[1] });
      return;
    }
    if (now.kind === "box" || straight) now.points = [now.points[0], at];
    else {
      const last = now.points[now.points.length - 1];
      if (Math.hypot(at[0] - last[0], at[1] - last[1]) >= 1.5) now.points.push(at);
    }
    follow();
  }

  function finish() {
    const now = gesture.current;
    gesture.current = undefined;
    if (!now || !frame || !step || now.kind === "pan") return;
    const places = now.points.map((point) => toPlace(frame, point));
    if (now.kind === "box") {
      if (step.kind !== "isolate" || places.length < 2) return cancel();
      const [[x0, y0], [x1, y1]] = places;
      const box = { x: Math.min(x0, x1), y: Math.min(y0, y1), wide: Math.abs(x1 - x0), tall: Math.abs(y1 - y0) };
      if (box.wide < 1 || box.tall < 1) return cancel();
      change({ ...step, box }, true);
      view.setTool("keep");
      return;
    }
    lastEnd.current = { of: brush, place: places[places.length - 1] };
    const stroke = { points: places, wide: Number((view.brush * pxPerMm(frame)).toFixed(2)) };
    if (step.kind === "isolate" && tool === "keep") change({ ...step, keep: [...step.keep, stroke] }, true);
    else if (step.kind === "isolate") change({ ...step, drop: [...step.drop, stroke] }, true);
    else if (step.kind === "remove" || step.kind === "brush") change({ ...step, strokes: [...step.strokes, stroke] }, true);
  }

  /** Leave the gesture under way; whether there was one. */
  function cancel(): boolean {
    const was = gesture.current !== undefined;
    if (gesture.current?.kind === "pan") view.setSight(gesture.current.sight);
    gesture.current = undefined;
    trace.current?.setAttribute("points", "");
    return was;
  }

  /** Pin the tone of a spot to the height that it has now. */
  function pin(tone: number) {
    const { pins } = tones.read(recipe);
    if (pins.some((other) => Math.abs(other.tone - tone) < 0.004)) return;
    const height = heightOf(tone) - art.read(recipe).backing.mm;
    const next = [...pins, { tone, mm: { mm: Number(Math.max(0, height).toFixed(2)) } }];
    edit(
      put(tones, { pins: next.sort((a, b) => a.tone - b.tone) }),
      "pin a tone",
      true,
    );
  }

  function click(at: Spot) {
    if (!frame || !shown) return;
    const place = toPlace(frame, at);
    const [u, v] = toShare(frame, at);
    if (u < 0 || u > 1 || v < 0 || v > 1) return;
    const tone = () => Number(toneReader(shown.pixels)(u, v).toFixed(3));
    if (tool === "pin") return pin(tone());
    if (!step) return;
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
    } else if (step.kind === "tone_steps") {
      change({ ...step, tones: [...step.tones, tone()].sort((a, b) => a - b) }, true);
    } else if (step.kind === "read_from" && shown.before) {
      const colour = colourAt(shown.before, u, v).map((value) => Number(value.toFixed(3)));
      change({ ...step, colour: colour as [number, number, number] }, true);
    }
  }

  // Esc leaves a gesture under way, and nothing else then.
  const leave = useRef(cancel);
  useEffect(() => {
    leave.current = cancel;
  });
  useEffect(() => {
    const hear = (event: globalThis.KeyboardEvent) => {
      if (event.key === "Escape" && !keysAreTaken() && leave.current()) event.preventDefault();
    };
    window.addEventListener("keydown", hear);
    return () => window.removeEventListener("keydown", hear);
  }, []);

  const here = (event: PointerEvent): Spot => {
    const box = event.currentTarget.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };
  /** By keys: arrows move the spot, Space puts the brush down and lifts it, Enter clicks. */
  function key(event: KeyboardEvent) {
    if (!frame) return;
    const at = spot ?? [frame.left + frame.width / 2, frame.top + frame.height / 2];
    const way = arrowWay(event);
    if (way) {
      const step = Math.max(1, arrowStep(frame));
      const next = [0, 1].map((i) => at[i] + way[i] * step) as Spot;
      const { left, top, width, height } = frame;
      go([Math.min(left + width, Math.max(left, next[0])), Math.min(top + height, Math.max(top, next[1]))], false);
    } else if (event.key === "Enter" || event.key === " ") {
      if (tool === "none") return;
      setSpot(at);
      if (gesture.current) finish();
      else if (begin(at, false, event.shiftKey) && event.key === "Enter" && painting) finish();
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  return {
    spot,
    tool,
    painting,
    handlers: {
      onPointerDown: (event: PointerEvent<HTMLDivElement>) => {
        if (event.button > 1) return;
        if (begin(here(event), event.button === 1 || event.altKey, event.shiftKey)) event.currentTarget.setPointerCapture(event.pointerId);
      },
      onPointerMove: (event: PointerEvent<HTMLDivElement>) => go(here(event), event.shiftKey),
      onPointerUp: finish,
      onPointerCancel: cancel,
      onPointerLeave: () => {
        setSpot(undefined);
        hover(undefined);
      },
      onKeyDown: key,
      onBlur: cancel,
    },
  };
}
