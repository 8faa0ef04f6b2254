import { type KeyboardEvent, type PointerEvent, type RefObject, useEffect, useRef, useState } from "react";
import type { Recipe } from "../../api/client";
import { keysAreTaken } from "../../shared/useShortcuts";
import { art } from "../at";
import { type Sight, usePieceStore } from "../pieceStore";
import { useHeightOf } from "../steps/entries/useChart";
import type { HandlesProps, Left, Step, StepKind } from "../steps/kinds";
import { colourAt, toneReader } from "./draw";
import { arrowStep, arrowWay, type Frame, fromPlace, pxPerMm, screenPerMm, type Spot, toPlace, toShare } from "./frame";
import type { Shown } from "./useCorrected";

interface Gesture {
  kind: "pan" | "stroke" | "box";
  points: Spot[];
  from: Spot;
  sight: Sight;
}

interface Options {
  /** The step whose tools act, and its kind. */
  step: Step | undefined;
  kind: StepKind<Step, object> | undefined;
  recipe: Recipe;
  /** Whether the spot under the pointer is one of the piece, to be shown in the other views. */
  hovering: boolean;
  frame: Frame | undefined;
  shown: Shown | undefined;
  /** The line that shows a gesture under way. */
  trace: RefObject<SVGPolylineElement | null>;
  change: HandlesProps<Step>["change"];
}

/** What the pointer and the keys do in the picture: move it about, or what the chosen tool does. */
export function useTools({ step, kind, recipe, hovering, frame, shown, trace, change }: Options) {
  const view = usePieceStore();
  const { hover } = view;
  const [spot, setSpot] = useState<Spot>();
  const gesture = useRef<Gesture>(undefined);
  /** Where the last stroke of a brush ended, as a place of the picture. */
  const lastEnd = useRef<{ of: string; place: Spot }>(undefined);
  const named = kind?.tools?.[view.tool];
  const tool = step && named && (named.offered?.(step) ?? true) ? named : undefined;
  const brush = `${step?.id} ${view.tool}`;
  const heightOf = useHeightOf(recipe);
  const painting = tool?.by === "stroke";

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
    if (pan || !tool) {
      gesture.current = { kind: "pan", points: [], from, sight: view.sight };
    } else if (tool.by !== "click") {
      const kind = tool.by;
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
    if (frame && hovering) {
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
    if (!now || !frame || !step || !tool || now.kind === "pan") return;
    const places = now.points.map((point) => toPlace(frame, point));
    if (tool.by === "box") {
      const [[x0, y0], [x1, y1]] = [places[0], places[places.length - 1]];
      const box = { x: Math.min(x0, x1), y: Math.min(y0, y1), wide: Math.abs(x1 - x0), tall: Math.abs(y1 - y0) };
      if (box.wide < 1 || box.tall < 1) return cancel();
      leave(tool.done(step, box));
    } else if (tool.by === "stroke") {
      lastEnd.current = { of: brush, place: places[places.length - 1] };
      leave(tool.done(step, { points: places, wide: Number((view.brush * pxPerMm(frame)).toFixed(2)) }));
    }
  }

  /** Take what a tool left, and the tool that follows. */
  function leave(left: Left<Step> | undefined) {
    if (!left) return;
    change(left.part, left.resting ?? true, left.label);
    if (left.then) view.setTool(left.then);
  }

  /** Leave the gesture under way; whether there was one. */
  function cancel(): boolean {
    const was = gesture.current !== undefined;
    if (gesture.current?.kind === "pan") view.setSight(gesture.current.sight);
    gesture.current = undefined;
    trace.current?.setAttribute("points", "");
    return was;
  }

  function click(at: Spot) {
    if (!frame || !shown || !step || tool?.by !== "click") return;
    const [u, v] = toShare(frame, at);
    if (u < 0 || u > 1 || v < 0 || v > 1) return;
    const tone = () => Number(toneReader(shown.pixels)(u, v).toFixed(3));
    const colour = () => shown.before && (colourAt(shown.before, u, v).map((value) => Number(value.toFixed(3))) as [number, number, number]);
    const height = () => heightOf(tone()) - art.read(recipe).backing.mm;
    leave(tool.done(step, { place: toPlace(frame, at), tone, colour, height }));
  }

  // Esc leaves a gesture under way, and nothing else then.
  const escape = useRef(cancel);
  useEffect(() => {
    escape.current = cancel;
  });
  useEffect(() => {
    const hear = (event: globalThis.KeyboardEvent) => {
      if (event.key === "Escape" && !keysAreTaken() && escape.current()) event.preventDefault();
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
      if (!tool) return;
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
