import { useBench } from "../benchStore";
import { type Frame, type Spot, toScreen, toShare } from "./frame";
import { usePieceStore } from "../pieceStore";
import { Grip, useDrag, useKeyDrag } from "./grips";
import { useRef } from "react";
import { COLOURS } from "../../shared/colours";

const round = (value: number) => Math.round(value * 1e4) / 1e4;
const within = (value: number) => round(Math.min(1, Math.max(0, value)));

/** The section line in the picture: dragged as a whole or by its ends. */
export function SectionHandles({ frame }: { frame: Frame }) {
  const { line, setLine } = useBench();
  const along = usePieceStore((state) => state.along);
  const before = useRef(line);
  const start = toScreen(frame, line.start);
  const end = toScreen(frame, line.end);
  const shift = (spot: Spot, from: Spot) => {
    const [u0, v0] = toShare(frame, from);
    const [u1, v1] = toShare(frame, spot);
    const old = before.current;
    const low = [0, 1].map((i) => Math.min(old.start[i], old.end[i]));
    const high = [0, 1].map((i) => Math.max(old.start[i], old.end[i]));
    const du = Math.min(1 - high[0], Math.max(-low[0], u1 - u0));
    const dv = Math.min(1 - high[1], Math.max(-low[1], v1 - v0));
    setLine({
      start: [round(old.start[0] + du), round(old.start[1] + dv)],
      end: [round(old.end[0] + du), round(old.end[1] + dv)],
    });
  };
  const whole = { ...useDrag(shift), ...useKeyDrag(frame, start, shift) };
  const pull = (which: "start" | "end") => (spot: Spot) => {
    const [u, v] = toShare(frame, spot);
    const next: Spot = [within(u), within(v)];
    const other = which === "start" ? line.end : line.start;
    if (Math.hypot(next[0] - other[0], next[1] - other[1]) > 0.01) setLine({ ...line, [which]: next });
  };
  const remember = () => {
    before.current = line;
  };
  const at = along === undefined ? undefined : start.map((value, i) => value + along * (end[i] - value));
  return (
    <g onPointerDownCapture={remember} onKeyDownCapture={remember}>
      <line x1={start[0]} y1={start[1]} x2={end[0]} y2={end[1]} stroke={COLOURS.white} strokeOpacity="0.7" strokeWidth="4" pointerEvents="none" />
      <line x1={start[0]} y1={start[1]} x2={end[0]} y2={end[1]} stroke={COLOURS.madder} strokeWidth="1.8" pointerEvents="none" />
      <line
        className="grab"
        data-grip="Section line"
        role="button"
        aria-label="Section line"
        x1={start[0]}
        y1={start[1]}
        x2={end[0]}
        y2={end[1]}
        stroke="transparent"
        strokeWidth="15"
        {...whole}
      />
      <Grip spot={start} label="Start of the section" frame={frame} onDrag={pull("start")} />
      <Grip spot={end} label="End of the section" frame={frame} onDrag={pull("end")} />
      {at && <circle cx={at[0]} cy={at[1]} r="5" fill={COLOURS.madder} stroke={COLOURS.white} strokeWidth="2" pointerEvents="none" />}
    </g>
  );
}
