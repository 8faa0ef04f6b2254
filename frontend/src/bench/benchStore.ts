import { create } from "zustand";

export const STOPS = ["picture", "heights", "form", "finish", "proof"] as const;
export type Stop = (typeof STOPS)[number];
/** The parts of the bench, which take turns in a small window. */
export const TURNS = ["picture", "piece", "section", "panel"] as const;
export type Turn = (typeof TURNS)[number];
export type Look = "surface" | "lines" | "lit" | "difference";
export type NamedView = "front" | "side" | "above" | "all";

export interface SectionLine {
  start: [number, number];
  end: [number, number];
}

/** The upper line of the section in space, mm, over a stretch of the line. */
export interface SectionPath {
  points: [number, number, number][];
  from: number;
  to: number;
}

interface BenchState {
  stop: Stop;
  look: Look;
  turn: Turn;
  /** Share of the width that the picture view takes; 0 and 1 hide one of the two. */
  split: number;
  /** Which named view was asked for last; the counter tells two equal wishes apart. */
  wish: { view: NamedView; at: number };
  /** The section line, shares of the width and height from the upper left corner. */
  line: SectionLine;
  /** Where the pointer is along it, 0 to 1. */
  along: number | undefined;
  /** The spot under the pointer in the other view, shares from the upper left corner. */
  spot: [number, number] | undefined;
  /** The entry of the build-up that is being edited, by its id. */
  entry: string | undefined;
  /** The fitting that is being edited, by its id. */
  fitting: string | undefined;
  /** The section as the core cut it last: its upper line in space. */
  path: SectionPath;
  setLine: (line: SectionLine) => void;
  setAlong: (along: number | undefined) => void;
  /** The pointer is over a spot of the piece: marked in the picture, and in the strip when near the line. */
  hover: (spot: [number, number] | undefined) => void;
  chooseEntry: (id: string | undefined) => void;
  chooseFitting: (id: string | undefined) => void;
  setPath: (path: SectionPath) => void;
  go: (stop: Stop) => void;
  setLook: (look: Look) => void;
  setTurn: (turn: Turn) => void;
  setSplit: (split: number) => void;
  see: (view: NamedView) => void;
}

/** How far along the line a spot lies, when it is near it. */
export function nearLine({ start, end }: SectionLine, [u, v]: [number, number]): number | undefined {
  const [du, dv] = [end[0] - start[0], end[1] - start[1]];
  const long = du * du + dv * dv;
  const along = ((u - start[0]) * du + (v - start[1]) * dv) / Math.max(long, 1e-9);
  const off = Math.hypot(u - start[0] - along * du, v - start[1] - along * dv);
  return along >= 0 && along <= 1 && off < 0.02 ? along : undefined;
}

const STOP_KEY = "nebrel stop";

/** The stop this window was at before a reload. */
function lastStop(): Stop {
  const last = sessionStorage.getItem(STOP_KEY);
  return STOPS.find((stop) => stop === last) ?? "picture";
}

export const useBench = create<BenchState>((set) => ({
  stop: lastStop(),
  look: "surface",
  turn: "piece",
  split: 0.44,
  wish: { view: "all", at: 0 },
  line: { start: [0, 0.5], end: [1, 0.5] },
  along: undefined,
  spot: undefined,
  entry: "picture",
  fitting: undefined,
  path: { points: [], from: 0, to: 1 },
  setLine: (line) => set({ line }),
  setAlong: (along) => set({ along }),
  hover: (spot) => set(({ line }) => ({ spot, along: spot && nearLine(line, spot) })),
  chooseEntry: (entry) => set({ entry }),
  chooseFitting: (fitting) => set({ fitting }),
  setPath: (path) => set({ path }),
  go: (stop) => {
    sessionStorage.setItem(STOP_KEY, stop);
    set({ stop });
  },
  setLook: (look) => set({ look }),
  setTurn: (turn) => set({ turn }),
  setSplit: (split) => set({ split }),
  see: (view) => set((state) => ({ wish: { view, at: state.wish.at + 1 } })),
}));
