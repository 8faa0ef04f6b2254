import { create } from "zustand";

/** What the pointer does in the picture, beside moving it about. */
export type Tool = "none" | "keep" | "drop" | "box" | "pick" | "paint" | "source" | "first" | "second" | "axis" | "pin";

export interface Sight {
  /** 1 shows the whole picture. */
  zoom: number;
  /** Shift of the middle, px of the screen. */
  x: number;
  y: number;
}

export const WHOLE: Sight = { zoom: 1, x: 0, y: 0 };

interface PictureState {
  /** The correction that is being edited, by its id. */
  chosen: string | undefined;
  tool: Tool;
  /** Width of the brush, mm. */
  brush: number;
  sight: Sight;
  /** Share of the width left of which the picture is shown as it was brought in. */
  compare: number | undefined;
  /** Held down: all of it as it was brought in. */
  before: boolean;
  /** Seen repeated three by three. */
  repeated: boolean;
  /** The finding whose place is marked. */
  marked: string | undefined;
  choose: (id: string | undefined, tool?: Tool) => void;
  setTool: (tool: Tool) => void;
  setBrush: (mm: number) => void;
  setSight: (sight: Sight) => void;
  setCompare: (share: number | undefined) => void;
  setBefore: (before: boolean) => void;
  setRepeated: (repeated: boolean) => void;
  mark: (key: string | undefined) => void;
}

export const usePictureStore = create<PictureState>((set) => ({
  chosen: undefined,
  tool: "none",
  brush: 4,
  sight: WHOLE,
  compare: undefined,
  before: false,
  repeated: false,
  marked: undefined,
  choose: (chosen, tool = "none") => set({ chosen, tool, repeated: false }),
  setTool: (tool) => set({ tool }),
  setBrush: (brush) => set({ brush }),
  setSight: (sight) => set({ sight }),
  setCompare: (compare) => set({ compare }),
  setBefore: (before) => set({ before }),
  setRepeated: (repeated) => set({ repeated }),
  mark: (marked) => set({ marked }),
}));
