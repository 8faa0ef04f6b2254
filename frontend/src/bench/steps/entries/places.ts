import type { Entry } from "../../../api/client";
import { buildUp, change } from "../../at";

type Pair = [number, number];

/** From a share of the picture to mm from its middle. */
export const toMm = ([u, v]: Pair, [wide, tall]: Pair) => ({
  x: { mm: Number(((u - 0.5) * wide).toFixed(4)), text: null },
  y: { mm: Number(((0.5 - v) * tall).toFixed(4)), text: null },
});

type Trace = Extract<Entry, { kind: "traced" }>["trace"];
const times = <L extends { mm: number } | null | undefined>(length: L, factor: number): L =>
  length ? { ...length, mm: Number((length.mm * factor).toFixed(4)), text: null } : length;

/** What was chosen and placed by hand, on a picture that became larger or smaller by a factor. */
export const resized = (trace: Trace, factor: number): Trace => ({
  ...trace,
  choices: trace.choices.map((one) => ({ ...one, x: times(one.x, factor), y: times(one.y, factor) })),
  nodes: trace.nodes.map((one) => ({
    ...one,
    x: times(one.x, factor),
    y: times(one.y, factor),
    to_x: times(one.to_x, factor),
    to_y: times(one.to_y, factor),
  })),
});

/** The same of every traced entry of a recipe. */
export const withTraces = (factor: number) =>
  change(buildUp, (list) => list.map((entry) => (entry.kind === "traced" ? { ...entry, trace: resized(entry.trace, factor) } : entry)));

/** The place on closed lines that is nearest to one, in shares, and how far that is in mm. */
export function nearestOn(loops: Pair[][], [u, v]: Pair, [wide, tall]: Pair): { place: Pair; mm: number } | undefined {
  let best: { place: Pair; mm: number } | undefined;
  for (const loop of loops)
    loop.forEach(([u0, v0], k) => {
      const [u1, v1] = loop[(k + 1) % loop.length];
      const [dx, dy] = [(u1 - u0) * wide, (v1 - v0) * tall];
      const along = ((u - u0) * wide * dx + (v - v0) * tall * dy) / Math.max(dx * dx + dy * dy, 1e-12);
      const share = Math.min(1, Math.max(0, along));
      const place: Pair = [u0 + share * (u1 - u0), v0 + share * (v1 - v0)];
      const mm = Math.hypot((place[0] - u) * wide, (place[1] - v) * tall);
      if (!best || mm < best.mm) best = { place, mm };
    });
  return best;
}
