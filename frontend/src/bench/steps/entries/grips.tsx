import { useRef } from "react";
import { COLOURS } from "../../../shared/colours";
import type { Frame, Spot } from "../../picture/frame";
import { Grip, useDrag, useKeyDrag } from "../../picture/grips";
import type { HandlesProps, Placing } from "../kinds";
import type { Placed } from "./entry";
import { loopsOnScreen, middle } from "./loops";
import { type Outlines, useOutlines } from "./useOutlines";

const DEGREES = Math.PI / 180;
const round = (value: number) => Number(value.toFixed(2));

/** What moves, sizes and turns an entry of a kind in the picture. */
export const grips = <E extends Placed>(placing: Placing<E>) =>
  function EntryGrips({ step, word, recipe, resting, frame, change }: HandlesProps<E>) {
    const outlines = useOutlines(recipe, resting);
    if (!outlines?.loops.has(step.id) || !step.enabled) return null;
    return (
      <Box
        entry={step}
        placing={placing as unknown as Placing<Placed>}
        word={`place ${word}`}
        outlines={outlines}
        frame={frame}
        change={change as unknown as Change}
      />
    );
  };

type Change = HandlesProps<Placed>["change"];

interface Props {
  entry: Placed;
  placing: Placing<Placed>;
  word: string;
  outlines: Outlines;
  frame: Frame;
  change: Change;
}

/** A box around it, turned with it, with grips for its size and its turn. */
function Box({ entry, placing, word, outlines, frame, change }: Props) {
  const before = useRef(entry);
  const centre = middle(entry, frame);
  const turn = -entry.turn * DEGREES;
  const points = (loopsOnScreen(entry, outlines, frame, placing.size) ?? []).flat();
  const local = points.map(([x, y]): Spot => {
    const [dx, dy] = [x - centre[0], y - centre[1]];
    return [dx * Math.cos(turn) + dy * Math.sin(turn), -dx * Math.sin(turn) + dy * Math.cos(turn)];
  });
  const low = [0, 1].map((i) => Math.min(...local.map((p) => p[i])) - 6);
  const high = [0, 1].map((i) => Math.max(...local.map((p) => p[i])) + 6);
  const out = ([x, y]: Spot): Spot => [centre[0] + x * Math.cos(turn) - y * Math.sin(turn), centre[1] + x * Math.sin(turn) + y * Math.cos(turn)];
  const corners = (
    [
      [low[0], low[1]],
      [high[0], low[1]],
      [high[0], high[1]],
      [low[0], high[1]],
    ] as Spot[]
  ).map(out);
  const up = out([(low[0] + high[0]) / 2, low[1] - 22]);
  const top = out([(low[0] + high[0]) / 2, low[1]]);

  const shift = (spot: Spot, start: Spot, resting: boolean) => {
    const perMm = frame.width / frame.wideMm;
    const x = before.current.x.mm + (spot[0] - start[0]) / perMm;
    const y = before.current.y.mm - (spot[1] - start[1]) / perMm;
    change({ x: { mm: round(x) }, y: { mm: round(y) } }, resting, word);
  };
  const move = { ...useDrag(shift), ...useKeyDrag(frame, centre, shift) };
  const pull = (spot: Spot, start: Spot, resting: boolean) => {
    const was = Math.hypot(start[0] - centre[0], start[1] - centre[1]);
    const factor = Math.max(0.05, Math.hypot(spot[0] - centre[0], spot[1] - centre[1]) / Math.max(was, 1));
    change(placing.scaled(before.current, factor), resting, word);
  };
  const spin = (spot: Spot, _: Spot, resting: boolean) => {
    const angle = -Math.atan2(spot[0] - centre[0], -(spot[1] - centre[1])) / DEGREES;
    const near = Math.round(angle / 15) * 15;
    const turned = Math.abs(near - angle) < 3 ? near : Math.round(angle * 10) / 10;
    change({ turn: turned }, resting, word);
  };
  const remember = () => {
    before.current = entry;
  };
  return (
    <g onPointerDownCapture={remember} onKeyDownCapture={remember}>
      <polygon
        role="button"
        aria-label={`P${word.slice(1)}`}
        className="grab"
        data-grip="Entry"
        points={corners.map((corner) => corner.join(",")).join(" ")}
        fill="transparent"
        stroke={COLOURS.madder}
        strokeDasharray="6 4"
        {...move}
      />
      <line x1={top[0]} y1={top[1]} x2={up[0]} y2={up[1]} stroke={COLOURS.madder} pointerEvents="none" />
      <Grip spot={corners[1]} label="Size" frame={frame} cursor="nesw-resize" onDrag={pull} />
      <Grip spot={up} label="Turn" frame={frame} cursor="grab" onDrag={spin} />
    </g>
  );
}
