import { mm } from "../../shared/format";
import type { Frame } from "./frame";
import { COLOURS } from "../../shared/colours";

const NUMBER_PX = 12;
/** Of a number beside the view; a longer one is written smaller. */
const ROOM_LETTERS = 4;

/** A pleasant distance between ruler numbers, mm, given how many px a mm takes. */
function rulerStep(pxPerMm: number): number {
  const least = 38 / pxPerMm;
  const power = 10 ** Math.floor(Math.log10(least));
  return [1, 2, 5, 10].map((factor) => factor * power).find((step) => step >= least) ?? least;
}

interface Props {
  frame: Frame;
  room: { width: number; height: number };
  edge: { left: number; top: number };
}

/** Rulers in mm along the upper and the left side of the view; 0 is the lower left corner. */
export function Rulers({ frame, room, edge }: Props) {
  const scale = frame.width / frame.wideMm;
  const step = rulerStep(scale);
  const ticks = (length: number, from: number, to: number) => {
    const first = Math.max(0, Math.ceil((from / step) * 5));
    const last = Math.min(Math.floor((length / step) * 5 + 1e-6), Math.floor((to / step) * 5));
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, index) => ({
      at: ((first + index) * step) / 5,
      long: (first + index) % 5 === 0,
    }));
  };
  const top = Math.max(edge.top, frame.top);
  const left = Math.max(edge.left, frame.left);
  const bottom = frame.top + frame.height;
  const across = ticks(frame.wideMm, (edge.left - frame.left) / scale, (room.width - frame.left) / scale);
  const up = ticks(frame.tallMm, (bottom - room.height) / scale, (bottom - edge.top) / scale);
  return (
    <>
      <g stroke={COLOURS.quiet} strokeWidth="1">
        {across.map(({ at, long }) => (
          <line key={at} x1={frame.left + at * scale} x2={frame.left + at * scale} y1={top - 3} y2={top - (long ? 11 : 7)} />
        ))}
        {up.map(({ at, long }) => (
          <line key={at} y1={bottom - at * scale} y2={bottom - at * scale} x1={left - 3} x2={left - (long ? 11 : 7)} />
        ))}
      </g>
      <g className="mono" fill={COLOURS.quiet} fontSize={NUMBER_PX}>
        {across
          .filter((tick) => tick.long)
          .map(({ at }) => (
            <text key={at} x={frame.left + at * scale} y={top - 15} textAnchor="middle">
              {mm(at, 2)}
            </text>
          ))}
        {up
          .filter((tick) => tick.long)
          .map(({ at }) => (
            <text key={at} x={left - 14} y={bottom - at * scale + 4} textAnchor="end" fontSize={NUMBER_PX * Math.min(1, ROOM_LETTERS / mm(at, 2).length)}>
              {mm(at, 2)}
            </text>
          ))}
      </g>
    </>
  );
}
