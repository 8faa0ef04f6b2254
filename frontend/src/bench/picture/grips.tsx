import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { Stroke } from "../../api/client";
import { COLOURS } from "../../shared/colours";
import { arrowStep, arrowWay, type Frame, fromPlace, type Spot } from "./frame";

/** Where it is by now, where it began, and whether it rests. */
export type Moved = (spot: Spot, start: Spot, resting: boolean, shift: boolean) => void;

/** Drags in px of the screen; the last move is a resting one. */
export function useDrag(moved: Moved) {
  const start = useRef<Spot>(undefined);
  const here = (event: PointerEvent<SVGElement>): Spot => {
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    return [event.clientX - (box?.left ?? 0), event.clientY - (box?.top ?? 0)];
  };
  return {
    onPointerDown: (event: PointerEvent<SVGElement>) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      start.current = here(event);
    },
    onPointerMove: (event: PointerEvent<SVGElement>) => {
      if (start.current) moved(here(event), start.current, false, event.shiftKey);
    },
    onPointerUp: (event: PointerEvent<SVGElement>) => {
      if (start.current) moved(here(event), start.current, true, event.shiftKey);
      start.current = undefined;
    },
    onPointerCancel: () => {
      start.current = undefined;
    },
  };
}

/** What is dragged is moved with the arrow keys too: a pixel of the picture, with Shift ten. */
export function useKeyDrag(frame: Frame, at: Spot, moved: Moved) {
  return {
    tabIndex: 0,
    onKeyDown: (event: KeyboardEvent<SVGElement>) => {
      const way = arrowWay(event);
      if (!way) return;
      event.preventDefault();
      event.stopPropagation();
      const step = arrowStep(frame);
      moved([at[0] + way[0] * step, at[1] + way[1] * step], at, false, event.shiftKey);
    },
  };
}

interface GripProps {
  spot: Spot;
  label: string;
  frame: Frame;
  cursor?: string;
  onDrag: Moved;
}

/** A dot that is dragged. */
export function Grip({ spot, label, frame, cursor = "move", onDrag }: GripProps) {
  const [x, y] = spot;
  const drag = useDrag(onDrag);
  const keys = useKeyDrag(frame, spot, onDrag);
  return (
    <g data-grip={label} className="grip" role="button" aria-label={label} style={{ cursor }} {...drag} {...keys}>
      <circle cx={x} cy={y} r="11" fill="transparent" />
      <circle className="grip-dot" cx={x} cy={y} r="5" fill={COLOURS.white} stroke={COLOURS.madder} strokeWidth="2" />
    </g>
  );
}

/** Places that were chosen. */
export function Places({ places, frame }: { places: readonly Spot[]; frame: Frame }) {
  return (
    <g pointerEvents="none">
      {places.map((place, index) => {
        const [x, y] = fromPlace(frame, place);
        return (
          <g key={index}>
            <circle cx={x} cy={y} r="6" fill="none" stroke={COLOURS.white} strokeWidth="4" />
            <circle cx={x} cy={y} r="6" fill="none" stroke={COLOURS.madder} strokeWidth="2" />
          </g>
        );
      })}
    </g>
  );
}

/** Strokes that were drawn over the picture, as wide as they are there. */
export function StrokeLines({ strokes, colour, frame }: { strokes: readonly Stroke[]; colour: string; frame: Frame }) {
  const scale = Math.abs(fromPlace(frame, [1, 0])[0] - fromPlace(frame, [0, 0])[0]) || frame.width / 1000;
  return (
    <g pointerEvents="none">
      {strokes.map((stroke, index) => (
        <polyline
          key={index}
          points={stroke.points.map((spot) => fromPlace(frame, spot).join(",")).join(" ")}
          fill="none"
          stroke={colour}
          strokeOpacity="0.55"
          strokeWidth={Math.max(2, stroke.wide * scale)}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      ))}
    </g>
  );
}
