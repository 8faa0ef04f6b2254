import { useRef } from "react";
import type { FinishStep } from "../api/client";
import { COLOURS } from "../shared/colours";
import { mm } from "../shared/format";
import type { Cut } from "./BodyStrip";

const LEFT = 58;
const RIGHT = 18;
const TOP = 32;
const BOTTOM = 20;
/** Combs closer together than this, px, would only be gray. */
const CLOSEST = 3;
const REACH = 10;

interface Props {
  cut: Cut;
  along: "x" | "y";
  room: { width: number; height: number };
  plane: Extract<FinishStep, { kind: "trim" | "split" }> | undefined;
  onPlane: (mm: number, still: boolean) => void;
}

/** The cut itself, to scale: drawn from what the core cut, never computed here. */
export function SectionCut({ cut, along, room, plane, onPlane }: Props) {
  const host = useRef<SVGSVGElement>(null);
  const axis = "xyz".indexOf(along);
  const [from, to] = [cut.low_mm[axis], cut.high_mm[axis]];
  const [floor, top] = [cut.low_mm[2], cut.high_mm[2]];
  const width = Math.max(1, room.width - LEFT - RIGHT);
  const height = Math.max(1, room.height - TOP - BOTTOM);
  const scale = Math.min(width / Math.max(to - from, 1e-6), height / Math.max(top - floor, 1e-6)) * 0.96;
  const middle = LEFT + width / 2;
  const base = TOP + height - 2;
  const x = (place: number) => middle + (place - (from + to) / 2) * scale;
  const y = (place: number) => base - (place - floor) * scale;
  const path = (lines: Cut["lines"]) => lines.map((line) => `M${line.map(([a, b]) => `${x(a).toFixed(1)} ${y(b).toFixed(1)}`).join("L")}`).join("");
  const layers = cut.layer_mm * scale >= CLOSEST ? Math.floor((top - floor) / cut.layer_mm) : 0;
  const lines = cut.line_mm * scale >= CLOSEST ? Math.floor((to - from) / cut.line_mm) : 0;
  const level = plane?.axis === "z";
  const [least, most] = level ? [floor, top] : [from, to];
  const dragged = useRef<number>(undefined);
  const under = ({ clientX, clientY }: { clientX: number; clientY: number }) => {
    const box = host.current?.getBoundingClientRect();
    const place = level ? floor + (base - (clientY - (box?.top ?? 0))) / scale : (from + to) / 2 + (clientX - (box?.left ?? 0) - middle) / scale;
    return Number(Math.min(most, Math.max(least, place)).toFixed(2));
  };
  const move = (place: number, still: boolean) => {
    dragged.current = still ? undefined : place;
    onPlane(Number(Math.min(most, Math.max(least, place)).toFixed(2)), still);
  };
  return (
    <svg ref={host} width={room.width} height={room.height} className="profile cut" role="group" aria-label="Section of the mesh">
      <g stroke={COLOURS.comb} strokeWidth="1">
        {Array.from({ length: layers }, (_, i) => y(floor + (i + 1) * cut.layer_mm)).map((at) => (
          <line key={at} x1={x(from)} x2={x(to)} y1={at} y2={at} />
        ))}
        {Array.from({ length: lines }, (_, i) => x(from + (i + 1) * cut.line_mm)).map((at) => (
          <line key={at} x1={at} x2={at} y1={y(top)} y2={base} />
        ))}
      </g>
      {cut.before.length > 0 && <path d={path(cut.before)} fill="none" stroke={COLOURS.quiet} strokeOpacity="0.55" strokeDasharray="4 3" />}
      <path data-cut d={path(cut.lines)} fill={COLOURS.stone} fillOpacity="0.75" fillRule="nonzero" stroke={COLOURS.madder} strokeWidth="1.6" />
      <line x1={LEFT} x2={LEFT + width} y1={base} y2={base} stroke={COLOURS.ink} />
      <g className="mono" fill={COLOURS.quiet} fontSize="11">
        <text x={LEFT - 6} y={base + 3} textAnchor="end">
          {mm(floor, 1)}
        </text>
        <text x={LEFT - 6} y={y(top) + 4} textAnchor="end">
          {mm(top, 1)}
        </text>
        <text x={x(from)} y={base + 15} textAnchor="middle">
          {mm(from, 1)}
        </text>
        <text x={x(to)} y={base + 15} textAnchor="middle">
          {mm(to, 1)} mm
        </text>
      </g>
      {plane && (
        <g
          role="slider"
          tabIndex={0}
          aria-label={`Plane of the ${plane.kind}`}
          aria-orientation={level ? "vertical" : "horizontal"}
          aria-valuemin={Number(least.toFixed(2))}
          aria-valuemax={Number(most.toFixed(2))}
          aria-valuenow={plane.at.mm}
          aria-valuetext={`${plane.axis} = ${mm(plane.at.mm, 2)} mm`}
          className="trim-plane"
          style={{ cursor: level ? "ns-resize" : "ew-resize" }}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            move(under(event), false);
          }}
          onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && move(under(event), false)}
          onPointerUp={(event) => dragged.current !== undefined && move(under(event), true)}
          onPointerCancel={() => dragged.current !== undefined && move(dragged.current, true)}
          onKeyDown={(event) => {
            const way = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
            if (way === undefined) return;
            event.preventDefault();
            move(plane.at.mm + way * (event.shiftKey ? 1 : 0.1), true);
          }}
        >
          {level ? (
            <>
              <rect x={LEFT} width={width} y={y(plane.at.mm) - REACH} height={2 * REACH} fill="transparent" />
              <line x1={LEFT} x2={LEFT + width} y1={y(plane.at.mm)} y2={y(plane.at.mm)} stroke={COLOURS.madder} strokeWidth="2" />
              <circle cx={LEFT + width - 14} cy={y(plane.at.mm)} r="6" fill={COLOURS.madder} stroke={COLOURS.white} strokeWidth="2" />
            </>
          ) : (
            <>
              <rect x={x(plane.at.mm) - REACH} width={2 * REACH} y={TOP - 8} height={height + 8} fill="transparent" />
              <line x1={x(plane.at.mm)} x2={x(plane.at.mm)} y1={TOP - 8} y2={base} stroke={COLOURS.madder} strokeWidth="2" />
              <circle cx={x(plane.at.mm)} cy={TOP} r="6" fill={COLOURS.madder} stroke={COLOURS.white} strokeWidth="2" />
            </>
          )}
        </g>
      )}
    </svg>
  );
}
