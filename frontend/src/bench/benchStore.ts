import { create } from "zustand";

export const STOPS = ["picture", "heights", "form", "finish", "proof"] as const;
export type Stop = (typeof STOPS)[number];
export type Look = "surface" | "lines";
export type NamedView = "front" | "side" | "above" | "all";

export interface SectionLine {
  start: [number, number];
  end: [number, number];
}

interface BenchState {
  stop: Stop;
  look: Look;
  /** Share of the width that the picture view takes; 0 and 1 hide one of the two. */
  split: number;
  /** Which named view was asked for last; the counter tells two equal wishes apart. */
  wish: { view: NamedView; at: number };
  /** The section line, shares of the width and height from the upper left corner. */
  line: SectionLine;
  /** Where the pointer is along it, 0 to 1. */
  along: number | undefined;
  setLine: (line: SectionLine) => void;
  setAlong: (along: number | undefined) => void;
  go: (stop: Stop) => void;
  setLook: (look: Look) => void;
  setSplit: (split: number) => void;
  see: (view: NamedView) => void;
}

export const useBench = create<BenchState>((set) => ({
  stop: "picture",
  look: "surface",
  split: 0.44,
  wish: { view: "all", at: 0 },
  line: { start: [0, 0.5], end: [1, 0.5] },
  along: undefined,
  setLine: (line) => set({ line }),
  setAlong: (along) => set({ along }),
  go: (stop) => set({ stop }),
  setLook: (look) => set({ look }),
  setSplit: (split) => set({ split }),
  see: (view) => set((state) => ({ wish: { view, at: state.wish.at + 1 } })),
}));
