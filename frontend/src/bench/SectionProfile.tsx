import { useEffect, useRef } from "react";
import type { Schemas } from "../api/client";
import { mm } from "../shared/format";
import { COLOURS } from "../shared/colours";

export type Section = Schemas["SectionOut"];

/** A stretch of the line, shares of its length. */
export interface Stretch {
  from: number;
  to: number;
}

const LEFT = 46;
const RIGHT = 18;
const TOP = 32;
const BOTTOM = 20;
/** Combs closer together than this, px, would only be gray. */
const CLOSEST = 3;

interface Props {
  section: Section;
  faint: Section | undefined;
  /** The stretch that the section holds, and the one that is looked at. */
  shown: Stretch;
  seen: Stretch;
  /** Length of the whole line, mm. */
  whole: number;
  room: { width: number; height: number };
  stretched: boolean;
  /** Whether light is drawn beside thickness. */
  lit: boolean;
  along: number | undefined;
  marks: number[];
  onAlong: (share: number | undefined) => void;
  onMark: (share: number) => void;
  onZoom: (share: number, factor: number) => void;
  onShift: (by: number) => void;
}

/** The profile itself: drawn from what the core cut, never computed here. */
export function SectionProfile(props: Props) {
  const { section, faint, shown, seen, whole, room, stretched, lit, along, marks } = props;
  const host = useRef<SVGSVGElement>(null);
  const width = Math.max(1, room.width - LEFT - RIGHT);
  const height = Math.max(1, room.height - TOP - BOTTOM);
  const length = (seen.to - seen.from) * whole;
  const highest = Math.max(section.highest_mm, 0.1);
  const across = width / length;
  const up = stretched ? height / (highest * 1.08) : Math.min(across, height / (highest * 1.08));
  const base = TOP + height;
  const place = (share: number) => LEFT + ((share - seen.from) / (seen.to - seen.from)) * width;
  const shareAt = (clientX: number) => {
    const box = host.current?.getBoundingClientRect();
    return seen.from + ((clientX - (box?.left ?? 0) - LEFT) / width) * (seen.to - seen.from);
  };

  // React listens to the wheel passively; zooming must keep the page still.
  const turned = useRef<(event: WheelEvent) => void>(undefined);
  useEffect(() => {
    turned.current = (event) => {
      event.preventDefault();
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        props.onShift((event.deltaX || event.deltaY) / width);
      } else {
        props.onZoom(shareAt(event.clientX), Math.exp(event.deltaY * 0.002));
      }
    };
  });
  useEffect(() => {
    const element = host.current;
    const hear = (event: WheelEvent) => turned.current?.(event);
    element?.addEventListener("wheel", hear, { passive: false });
    return () => element?.removeEventListener("wheel", hear);
  }, []);

  const outline = (of: Section) => {
    const parts = of.high_mm.length;
    const each = (shown.to - shown.from) / parts;
    const x = (i: number) => place(shown.from + (i + 0.5) * each).toFixed(1);
    return of.high_mm.map((h, i) => `${x(i)} ${(base - h * up).toFixed(1)}`).join("L");
  };
  const lightLine = (of: Section) => {
    const each = (shown.to - shown.from) / of.light.length;
    return of.light.map((share, i) => `${place(shown.from + (i + 0.5) * each).toFixed(1)} ${(base - share * height).toFixed(1)}`).join("L");
  };
  const [first, end] = [place(shown.from), place(shown.to)];
  const combs = (step: number, scale: number, from: number, to: number) => {
    if (step * scale < CLOSEST) return [];
    const start = Math.ceil(from / step);
    return Array.from({ length: Math.max(0, Math.floor(to / step) - start + 1) }, (_, i) => (start + i) * step);
  };
  const read = (share: number) => {
    const own = (share - shown.from) / (shown.to - shown.from);
    if (own < 0 || own > 1) return undefined;
    return section.high_mm[Math.min(section.high_mm.length - 1, Math.floor(own * section.high_mm.length))];
  };
  const here = along === undefined ? undefined : read(along);
  const inSight = (share: number) => share >= seen.from && share <= seen.to;
  const pressed = useRef<number>(undefined);

  return (
    <svg
      ref={host}
      width={room.width}
      height={room.height}
      className="profile"
      role="slider"
      tabIndex={0}
      aria-label={`Place along the profile, which goes from ${mm(Math.min(...section.low_mm))} to ${mm(Math.max(...section.high_mm))} mm`}
      aria-valuemin={0}
      aria-valuemax={Number(mm(whole))}
      aria-valuenow={Number(mm((along ?? (seen.from + seen.to) / 2) * whole))}
      aria-valuetext={here === undefined ? "nowhere" : `${mm((along ?? 0) * whole)} mm along, ${mm(here, 3)} mm high`}
      onKeyDown={(event) => {
        const ways: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1 };
        const way = ways[event.key];
        if (way !== undefined) {
          const step = ((seen.to - seen.from) / 400) * (event.shiftKey ? 10 : 1);
          const from = along !== undefined && inSight(along) ? along : (seen.from + seen.to) / 2;
          props.onAlong(Math.min(seen.to, Math.max(seen.from, from + way * step)));
        } else if (event.key === "Enter" && along !== undefined) props.onMark(along);
        else return;
        event.preventDefault();
      }}
      onPointerDown={(event) => {
        pressed.current = event.clientX;
      }}
      onPointerUp={(event) => {
        const share = shareAt(event.clientX);
        if (pressed.current !== undefined && Math.abs(event.clientX - pressed.current) < 4 && inSight(share)) props.onMark(share);
        pressed.current = undefined;
      }}
      onPointerMove={(event) => {
        const share = shareAt(event.clientX);
        props.onAlong(inSight(share) ? share : undefined);
      }}
      onPointerLeave={() => props.onAlong(undefined)}
    >
      <defs>
        <clipPath id="strip-room">
          <rect x={LEFT} y={TOP - 8} width={width} height={height + 9} />
        </clipPath>
      </defs>
      <g stroke={COLOURS.comb} strokeWidth="1">
        {combs(section.layer_mm, up, 0, highest * 1.05).map((h) => (
          <line key={h} x1={LEFT} x2={LEFT + width} y1={base - h * up} y2={base - h * up} />
        ))}
        {combs(section.line_mm, across, seen.from * whole, seen.to * whole).map((x) => (
          <line key={x} data-comb="line" x1={place(x / whole)} x2={place(x / whole)} y1={TOP} y2={base} />
        ))}
      </g>
      <g clipPath="url(#strip-room)">
        <path d={`M${first} ${base}L${outline(section)}L${end} ${base}Z`} fill={COLOURS.stone} fillOpacity="0.75" />
        {faint && <path d={`M${outline(faint)}`} fill="none" stroke={COLOURS.quiet} strokeOpacity="0.45" strokeDasharray="4 3" />}
        <path d={`M${outline(section)}`} fill="none" stroke={COLOURS.madder} strokeWidth="1.6" />
        {lit && <path data-light d={`M${lightLine(section)}`} fill="none" stroke={COLOURS.ochre} strokeWidth="1.6" />}
      </g>
      <line x1={LEFT} x2={LEFT + width} y1={base} y2={base} stroke={COLOURS.ink} />
      <g className="mono" fill={COLOURS.quiet} fontSize="11">
        <text x={LEFT - 6} y={base + 3} textAnchor="end">
          0
        </text>
        <text x={LEFT - 6} y={base - highest * up + 4} textAnchor="end">
          {mm(highest)}
        </text>
        <text x={LEFT} y={base + 15}>
          {mm(seen.from * whole, 1)}
        </text>
        <text x={LEFT + width} y={base + 15} textAnchor="end">
          {mm(seen.to * whole, 1)} mm
        </text>
      </g>
      {marks.filter(inSight).map((share) => (
        <g key={share} pointerEvents="none">
          <line x1={place(share)} x2={place(share)} y1={TOP} y2={base} stroke={COLOURS.ink} />
          <path d={`M${place(share) - 5} ${TOP - 4}h10l-5 7Z`} fill={COLOURS.ink} />
        </g>
      ))}
      {along !== undefined && here !== undefined && inSight(along) && (
        <g pointerEvents="none">
          <line x1={place(along)} x2={place(along)} y1={TOP} y2={base} stroke={COLOURS.madder} strokeDasharray="2 3" />
          <circle cx={place(along)} cy={base - here * up} r="4.5" fill={COLOURS.madder} stroke={COLOURS.white} strokeWidth="2" />
        </g>
      )}
    </svg>
  );
}
