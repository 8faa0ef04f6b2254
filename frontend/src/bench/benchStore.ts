import { create } from "zustand";

/** The parts of the bench, which take turns in a small window. */
export const TURNS = ["picture", "piece", "section", "panel"] as const;
export type Turn = (typeof TURNS)[number];
export type NamedView = "front" | "side" | "above" | "all";

export interface SectionLine {
  start: [number, number];
  end: [number, number];
}

/** What the screen keeps, whichever piece is open. */
interface BenchState {
  /** The id of the way in which pieces are seen. */
  look: string;
  turn: Turn;
  /** Share of the width that the picture view takes; 0 and 1 hide one of the two. */
  split: number;
  /** Which named view was asked for last; the counter tells two equal wishes apart. */
  wish: { view: NamedView; at: number };
  /** The piece goes round slowly, as on a turntable. */
  turning: boolean;
  /** The section line, shares of the width and height from the upper left corner. */
  line: SectionLine;
  setLine: (line: SectionLine) => void;
  setLook: (look: string) => void;
  setTurn: (turn: Turn) => void;
  setSplit: (split: number) => void;
  see: (view: NamedView) => void;
  setTurning: (turning: boolean) => void;
}

/** How far along the line a spot lies, when it is near it. */
export function nearLine({ start, end }: SectionLine, [u, v]: [number, number]): number | undefined {
  const [du, dv] = [end[0] - start[0], end[1] - start[1]];
  const long = du * du + dv * dv;
  const along = ((u - start[0]) * du + (v - start[1]) * dv) / Math.max(long, 1e-9);
  const off = Math.hypot(u - start[0] - along * du, v - start[1] - along * dv);
  return along >= 0 && along <= 1 && off < 0.02 ? along : undefined;
}

export const useBench = create<BenchState>((set) => ({
  look: "surface",
  turn: "piece",
  split: 0.44,
  wish: { view: "all", at: 0 },
  turning: false,
  line: { start: [0, 0.5], end: [1, 0.5] },
  setLine: (line) => set({ line }),
  setLook: (look) => set({ look }),
  setTurn: (turn) => set({ turn }),
  setSplit: (split) => set({ split }),
  see: (view) => set((state) => ({ wish: { view, at: state.wish.at + 1 }, turning: false })),
  setTurning: (turning) => set({ turning }),
}));
