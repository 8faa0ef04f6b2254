import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { Correction } from "../../api/client";
import { mm } from "../../shared/format";
import { moveBox, pullBox } from "./crop";
import { arrowStep, arrowWay, type Frame, fromPlace, type Spot, toPlace, toScreen, toShare } from "./frame";
import type { Shown } from "./useCorrected";

interface Props {
  step: Correction | undefined;
  frame: Frame;
  shown: Shown;
  change: (next: Correction, resting: boolean) => void;
}

/** Everything of the chosen correction that is dragged in the picture. */
export function Handles({ step, frame, shown, change }: Props) {
  switch (step?.kind) {
    case "crop":
      return step.by === "box" && step.box ? (
        <CropBox step={step} box={step.box} frame={frame} shown={shown} change={change} />
      ) : null;
    case "true_size":
      return step.measure === "between" ? <Measure step={step} frame={frame} change={change} /> : null;
    case "isolate":
      return step.method === "strokes" ? <Marks step={step} frame={frame} /> : <Places places={step.places} frame={frame} />;
    case "fill":
      return <Places places={[step.at as Spot]} frame={frame} />;
    case "remove":
      return step.source ? <Places places={[step.source as Spot]} frame={frame} /> : null;
    case "brush":
      return step.mirror_x == null ? null : <Axis x={step.mirror_x} frame={frame} shown={shown} />;
    case "overlay":
      return <OverlayFrame step={step} frame={frame} change={change} />;
    default:
      return null;
  }
}

type Moved = (spot: Spot, start: Spot, resting: boolean, shift: boolean) => void;

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

type CropStep = Extract<Correction, { kind: "crop" }>;

function CropBox({ step, box, frame, shown, change }: Props & { step: CropStep; box: NonNullable<CropStep["box"]> }) {
  const { cols, rows } = shown.corrected;
  const before = useRef(box);
  const toScreenPx = (x: number, y: number) => toScreen(frame, [x / cols, y / rows]);
  const [left, top] = toScreenPx(box.x, box.y);
  const [right, bottom] = toScreenPx(box.x + box.wide, box.y + box.tall);
  const room = { cols, rows, ratio: step.ratio };
  const shift = (spot: Spot, start: Spot): Spot => {
    const [u0, v0] = toShare(frame, start);
    const [u1, v1] = toShare(frame, spot);
    return [(u1 - u0) * cols, (v1 - v0) * rows];
  };
  const move: Moved = (spot, start, resting) =>
    change({ ...step, box: moveBox(before.current, shift(spot, start), room) }, resting);
  const whole = { ...useDrag(move), ...useKeyDrag(frame, [left, top], move) };
  const pull =
    (sides: string): Moved =>
    (spot, start, resting) =>
      change({ ...step, box: pullBox(before.current, sides, shift(spot, start), room) }, resting);
  const remember = () => {
    before.current = box;
  };
  const spots: Record<string, Spot> = {
    nw: [left, top],
    ne: [right, top],
    sw: [left, bottom],
    se: [right, bottom],
    n: [(left + right) / 2, top],
    s: [(left + right) / 2, bottom],
    w: [left, (top + bottom) / 2],
    e: [right, (top + bottom) / 2],
  };
  const { width, height } = frame;
  return (
    <g onPointerDownCapture={remember} onKeyDownCapture={remember}>
      <path
        d={`M${frame.left} ${frame.top}h${width}v${height}h${-width}Z M${left} ${top}V${bottom}H${right}V${top}Z`}
        fill="rgba(244, 240, 232, 0.72)"
        fillRule="evenodd"
        pointerEvents="none"
      />
      <rect
        className="grab"
        x={left}
        y={top}
        width={Math.max(0, right - left)}
        height={Math.max(0, bottom - top)}
        fill="transparent"
        stroke="#9A2B45"
        strokeWidth="1.5"
        role="button"
        aria-label="Crop, all of it"
        {...whole}
      />
      {Object.entries(spots).map(([sides, spot]) => (
        <Grip key={sides} spot={spot} label={`Crop, ${sides}`} frame={frame} cursor={`${sides}-resize`} onDrag={pull(sides)} />
      ))}
    </g>
  );
}

interface GripProps {
  spot: Spot;
  label: string;
  frame: Frame;
  cursor?: string;
  onDrag: Moved;
}

export function Grip({ spot, label, frame, cursor = "move", onDrag }: GripProps) {
  const [x, y] = spot;
  const drag = useDrag(onDrag);
  const keys = useKeyDrag(frame, spot, onDrag);
  return (
    <g data-grip={label} className="grip" role="button" aria-label={label} style={{ cursor }} {...drag} {...keys}>
      <circle cx={x} cy={y} r="11" fill="transparent" />
      <circle className="grip-dot" cx={x} cy={y} r="5" fill="#fff" stroke="#9A2B45" strokeWidth="2" />
    </g>
  );
}

type SizeStep = Extract<Correction, { kind: "true_size" }>;

function Measure({ step, frame, change }: Omit<Props, "shown" | "step"> & { step: SizeStep }) {
  const first = step.first && fromPlace(frame, step.first as Spot);
  const second = step.second && fromPlace(frame, step.second as Spot);
  const move = (which: "first" | "second") => (spot: Spot, _: Spot, resting: boolean) =>
    change({ ...step, [which]: toPlace(frame, spot) }, resting);
  return (
    <g>
      {first && second && (
        <>
          <line x1={first[0]} y1={first[1]} x2={second[0]} y2={second[1]} stroke="#fff" strokeWidth="4" />
          <line x1={first[0]} y1={first[1]} x2={second[0]} y2={second[1]} stroke="#9A2B45" strokeWidth="1.8" />
          <text className="mono measure" x={(first[0] + second[0]) / 2} y={(first[1] + second[1]) / 2 - 8} textAnchor="middle">
            {mm(step.length.mm)} mm
          </text>
        </>
      )}
      {first && <Grip spot={first} label="First point" frame={frame} onDrag={move("first")} />}
      {second && <Grip spot={second} label="Second point" frame={frame} onDrag={move("second")} />}
    </g>
  );
}

type IsolateStep = Extract<Correction, { kind: "isolate" }>;

/** The box and the strokes of a cut. */
function Marks({ step, frame }: { step: IsolateStep; frame: Frame }) {
  const scale = Math.abs(fromPlace(frame, [1, 0])[0] - fromPlace(frame, [0, 0])[0]) || frame.width / 1000;
  const lines = [
    ...step.keep.map((stroke) => ({ stroke, colour: "#5E7A3A" })),
    ...step.drop.map((stroke) => ({ stroke, colour: "#B23A22" })),
  ];
  return (
    <g pointerEvents="none">
      {step.box && (
        <polygon
          points={[
            [step.box.x, step.box.y],
            [step.box.x + step.box.wide, step.box.y],
            [step.box.x + step.box.wide, step.box.y + step.box.tall],
            [step.box.x, step.box.y + step.box.tall],
          ]
            .map((spot) => fromPlace(frame, spot as Spot).join(","))
            .join(" ")}
          fill="none"
          stroke="#9A2B45"
          strokeWidth="1.5"
          strokeDasharray="6 4"
        />
      )}
      {lines.map(({ stroke, colour }, index) => (
        <polyline
          key={index}
          points={stroke.points.map((spot) => fromPlace(frame, spot as Spot).join(",")).join(" ")}
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

function Places({ places, frame }: { places: readonly (readonly number[])[]; frame: Frame }) {
  return (
    <g pointerEvents="none">
      {places.map((place, index) => {
        const [x, y] = fromPlace(frame, place as unknown as Spot);
        return (
          <g key={index}>
            <circle cx={x} cy={y} r="6" fill="none" stroke="#fff" strokeWidth="4" />
            <circle cx={x} cy={y} r="6" fill="none" stroke="#9A2B45" strokeWidth="2" />
          </g>
        );
      })}
    </g>
  );
}

function Axis({ x, frame, shown }: { x: number; frame: Frame; shown: Shown }) {
  const long = 4 * Math.max(shown.corrected.cols, shown.corrected.rows);
  const [x1, y1] = fromPlace(frame, [x, -long]);
  const [x2, y2] = fromPlace(frame, [x, long]);
  return <line x1={x1} y1={y1} x2={x2} y2={y2} stroke="#9A2B45" strokeDasharray="6 4" pointerEvents="none" />;
}

type OverlayStep = Extract<Correction, { kind: "overlay" }>;

function OverlayFrame({ step, frame, change }: Omit<Props, "shown" | "step"> & { step: OverlayStep }) {
  const old = useRef(step);
  const centre = fromPlace(frame, step.centre as Spot);
  const edge = fromPlace(frame, [step.centre[0] + step.wide / 2, step.centre[1]]);
  const reach = Math.hypot(edge[0] - centre[0], edge[1] - centre[1]);
  const turn = (-step.degrees * Math.PI) / 180;
  const grip: Spot = [centre[0] + reach * Math.cos(turn), centre[1] + reach * Math.sin(turn)];
  const shift: Moved = (spot, start, resting) => {
    const [cx, cy] = fromPlace(frame, old.current.centre as Spot);
    change({ ...step, centre: toPlace(frame, [cx + spot[0] - start[0], cy + spot[1] - start[1]]) }, resting);
  };
  const move = { ...useDrag(shift), ...useKeyDrag(frame, centre, shift) };
  const pull = (spot: Spot, _: Spot, resting: boolean) => {
    const long = Math.max(4, Math.hypot(spot[0] - centre[0], spot[1] - centre[1]));
    const degrees = (-Math.atan2(spot[1] - centre[1], spot[0] - centre[0]) * 180) / Math.PI;
    const near = Math.round(degrees / 15) * 15;
    change(
      {
        ...step,
        wide: Number(((step.wide * long) / Math.max(reach, 1)).toFixed(1)),
        degrees: Math.abs(near - degrees) < 3 ? near : Math.round(degrees * 10) / 10,
      },
      resting,
    );
  };
  const remember = () => {
    old.current = step;
  };
  return (
    <g onPointerDownCapture={remember} onKeyDownCapture={remember}>
      <circle role="button" aria-label="Second picture" className="grab" cx={centre[0]} cy={centre[1]} r={Math.max(14, reach * 0.92)} fill="transparent" stroke="#9A2B45" strokeDasharray="6 4" {...move} />
      <line x1={centre[0]} y1={centre[1]} x2={grip[0]} y2={grip[1]} stroke="#9A2B45" pointerEvents="none" />
      <Grip spot={grip} label="Size and turn" frame={frame} onDrag={pull} />
    </g>
  );
}
