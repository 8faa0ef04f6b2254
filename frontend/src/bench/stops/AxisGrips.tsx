import type { Figure as Begun } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { COLOURS } from "../../shared/colours";
import { figure as at, put } from "../at";
import { toScreen, toShare, type Spot } from "../picture/frame";
import { Grip } from "../picture/grips";
import type { UnderProps } from "./stop";

const MOST_LEAN = 40;
const rad = Math.PI / 180;

/** What is turned goes around it: dragged in the picture. */
export function AxisGrips({ recipe, figures, frame, edit }: UnderProps) {
  const begun = at.read(recipe);
  const done = figures?.figure;
  if (begun.way !== "turn" || !done) return null;
  const [left, top, wide, tall] = done.box;
  const axis: NonNullable<Begun["axis"]> = begun.axis ?? { ...FRESH.axis, at: done.axis?.[0] ?? 0, tilt: done.axis?.[1] ?? 0 };
  const middle: Spot = toScreen(frame, [left + wide * (0.5 + axis.at), top + tall / 2]);
  const half = (tall * frame.height) / 2;
  const lean = Math.tan(axis.tilt * rad);
  const upper: Spot = [middle[0] + half * lean, middle[1] - half];
  const lower: Spot = [middle[0] - half * lean, middle[1] + half];
  const set = (part: Partial<typeof axis>, resting: boolean) => edit(put(at, { axis: { ...axis, ...part } }), "axis", resting);
  const move = (spot: Spot, _: Spot, resting: boolean) => {
    const share = (toShare(frame, spot)[0] - left) / wide - 0.5;
    set({ at: Number(Math.min(0.5, Math.max(-0.5, share)).toFixed(4)) }, resting);
  };
  const tilt = (spot: Spot, _: Spot, resting: boolean) => {
    const degrees = Math.atan2(spot[0] - middle[0], Math.max(1, middle[1] - spot[1])) / rad;
    set({ tilt: Number(Math.min(MOST_LEAN, Math.max(-MOST_LEAN, degrees)).toFixed(2)) }, resting);
  };
  return (
    <>
      <line x1={upper[0]} y1={upper[1]} x2={lower[0]} y2={lower[1]} stroke={COLOURS.madder} strokeWidth="1.5" strokeDasharray="8 5" pointerEvents="none" />
      <Grip spot={middle} label="Axis" frame={frame} cursor="ew-resize" onDrag={move} />
      <Grip spot={upper} label="Upper end of the axis" frame={frame} cursor="ew-resize" onDrag={tilt} />
    </>
  );
}
