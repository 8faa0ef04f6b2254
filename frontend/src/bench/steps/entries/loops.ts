import type { Entry } from "../../../api/client";
import { type Frame, type Spot, toScreen } from "../../picture/frame";
import { isPlaced, type Placed } from "./entry";
import type { Outlines } from "./useOutlines";

const DEGREES = Math.PI / 180;

type Size = (entry: Placed) => number;

/** The middle of an entry on the screen. */
export const middle = (entry: Placed, frame: Frame): Spot => toScreen(frame, [0.5 + entry.x.mm / frame.wideMm, 0.5 - entry.y.mm / frame.tallMm]);

/** Loops as the core laid them, moved along while a newer answer is under way. */
export function loopsOnScreen(entry: Entry, outlines: Outlines, frame: Frame, size: Size | undefined): Spot[][] | undefined {
  const loops = outlines.loops.get(entry.id);
  if (!loops) return undefined;
  const onScreen = loops.map((loop) => loop.map((share) => toScreen(frame, share)));
  const before = outlines.entries.find((old) => old.id === entry.id);
  if (!isPlaced(entry) || !isPlaced(before) || before === entry || !size || before.kind !== entry.kind) return onScreen;
  const [from, to] = [middle(before, frame), middle(entry, frame)];
  const times = size(entry) / size(before);
  const turn = -(entry.turn - before.turn) * DEGREES;
  const [cos, sin] = [Math.cos(turn) * times, Math.sin(turn) * times];
  return onScreen.map((loop) =>
    loop.map(([x, y]): Spot => {
      const [dx, dy] = [x - from[0], y - from[1]];
      return [to[0] + dx * cos - dy * sin, to[1] + dx * sin + dy * cos];
    }),
  );
}

export const loopPath = (entry: Entry, outlines: Outlines, frame: Frame, size: Size | undefined) =>
  loopsOnScreen(entry, outlines, frame, size)
    ?.map((loop) => `M${loop.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}Z`)
    .join("");
