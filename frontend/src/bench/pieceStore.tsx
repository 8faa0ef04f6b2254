import { createContext, type ReactNode, useContext, useState } from "react";
import { createStore, type StoreApi, useStore } from "zustand";
import type { Decoration, Length } from "../api/client";
import { nearLine, useBench } from "./benchStore";

export interface Sight {
  /** 1 shows the whole picture. */
  zoom: number;
  /** Shift of the middle, px of the screen. */
  x: number;
  y: number;
}

export const WHOLE: Sight = { zoom: 1, x: 0, y: 0 };

/** The upper line of the section in space, mm, over a stretch of the line. */
export interface SectionPath {
  points: [number, number, number][];
  from: number;
  to: number;
}

/** A place on the piece that was pointed at, and the way its surface looks there. */
export interface Picked {
  place: [number, number, number];
  normal: [number, number, number];
  /** Straight inwards to the other side, mm; none where it is open there. */
  wall: number | undefined;
  /** As displayed, "#d8ccbb"; none where the piece has no colours. */
  colour: string | undefined;
}

export interface Trial {
  decorationId: string;
  over: "depth" | "size";
  variants: { value: number; decoration: Decoration }[];
}

/** What the bench keeps of one piece for as long as it is open. */
interface PieceState {
  /** The id of the stop that is open; a piece that has none of it shows its first. */
  stop: string;
  /** The step that is being edited, by its id, in each list of steps. */
  chosen: Record<string, string | undefined>;
  /** What the pointer does in the picture, beside moving it about: a tool of the chosen step. */
  tool: string;
  /** Width of the brush, mm. */
  brush: number;
  sight: Sight;
  /** Share of the width left of which the picture is shown as it was brought in. */
  compare: number | undefined;
  /** Held down: all of it as it was brought in. */
  before: boolean;
  /** What of a figure lies over its picture: as it is seen from there, or where their outlines differ. */
  laid: "figure" | "difference" | undefined;
  /** Seen repeated three by three. */
  repeated: boolean;
  /** The finding whose place is marked. */
  marked: string | undefined;
  /** Places of the piece that are marked in it, mm. */
  spots: [number, number, number][];
  /** What the next place that is pointed at in the piece is for. */
  picking: string | undefined;
  onPick: ((picked: Picked) => void) | undefined;
  /** Places that are measured between. */
  measured: Picked[];
  /** The number that a grip changes, as it was when the grip was taken. */
  heldFrom: number | undefined;
  /** What dragging on the piece does with a decoration: slide it, draw it from its middle outwards, or press another. */
  laying: "slide" | "draw" | "press";
  /** Whether it is caught by the middle of the body. */
  catching: boolean;
  /** The brush on the surface: how wide, and how far it moves it at most. */
  dab: { size: Length; strength: Length };
  /** A decoration in several depths or sizes, seen side by side instead of the piece. */
  trial: Trial | undefined;
  /** Where the pointer is along the section line, 0 to 1. */
  along: number | undefined;
  /** The spot under the pointer in the other view, shares from the upper left corner. */
  spot: [number, number] | undefined;
  /** The section as the core cut it last: its upper line in space. */
  path: SectionPath;
  go: (stop: string) => void;
  choose: (list: string, id: string | undefined, tool?: string) => void;
  /** Another stop is opened: what pointing at the piece did belongs to the one before. */
  leave: () => void;
  setTool: (tool: string) => void;
  setBrush: (mm: number) => void;
  setSight: (sight: Sight) => void;
  setCompare: (share: number | undefined) => void;
  setBefore: (before: boolean) => void;
  setLaid: (laid: PieceState["laid"]) => void;
  setRepeated: (repeated: boolean) => void;
  mark: (key: string | undefined) => void;
  markSpots: (key: string | undefined, spots: [number, number, number][]) => void;
  pick: (what: string | undefined, then?: (picked: Picked) => void) => void;
  measure: (places: Picked[]) => void;
  hold: (from: number | undefined) => void;
  setDab: (part: Partial<PieceState["dab"]>) => void;
  setLaying: (laying: "slide" | "draw" | "press") => void;
  setCatching: (catching: boolean) => void;
  setTrial: (trial: Trial | undefined) => void;
  setAlong: (along: number | undefined) => void;
  /** The pointer is over a spot of the piece: marked in the picture, and in the strip when near the line. */
  hover: (spot: [number, number] | undefined) => void;
  setPath: (path: SectionPath) => void;
}

/** What is being measured is known by this; it is part of no step. */
export const MEASURE = "measure";
const POINTING_AT_NOTHING = { picking: undefined, onPick: undefined };

const STOPS_KEY = "nebrel stops";

/** Where pieces were left in this window, by their ids. */
const stopsLeft = () => JSON.parse(sessionStorage.getItem(STOPS_KEY) ?? "{}") as Record<string, string>;

const makeStore = (pieceId: string) =>
  createStore<PieceState>((set) => ({
    stop: stopsLeft()[pieceId] ?? "",
    chosen: { entries: "picture" },
    tool: "none",
    brush: 4,
    sight: WHOLE,
    compare: undefined,
    before: false,
    laid: undefined,
    repeated: false,
    marked: undefined,
    spots: [],
    picking: undefined,
    onPick: undefined,
    measured: [],
    heldFrom: undefined,
    dab: { size: { mm: 8, text: null }, strength: { mm: 0.5, text: null } },
    laying: "slide",
    catching: false,
    trial: undefined,
    along: undefined,
    spot: undefined,
    path: { points: [], from: 0, to: 1 },
    go: (stop) => {
      sessionStorage.setItem(STOPS_KEY, JSON.stringify({ ...stopsLeft(), [pieceId]: stop }));
      set({ stop });
    },
    choose: (list, id, tool = "none") =>
      set((now) => ({ chosen: { ...now.chosen, [list]: id }, tool, repeated: false, ...(now.picking === MEASURE ? {} : POINTING_AT_NOTHING) })),
    leave: () => set((now) => ({ trial: undefined, ...(now.picking === MEASURE ? {} : POINTING_AT_NOTHING) })),
    setTool: (tool) => set({ tool }),
    setBrush: (brush) => set({ brush }),
    setSight: (sight) => set({ sight }),
    setCompare: (compare) => set({ compare }),
    setBefore: (before) => set({ before }),
    setLaid: (laid) => set({ laid }),
    setRepeated: (repeated) => set({ repeated }),
    mark: (marked) => set({ marked }),
    pick: (picking, onPick) => set({ picking, onPick }),
    measure: (measured) => set({ measured }),
    hold: (heldFrom) => set({ heldFrom }),
    setDab: (part) => set(({ dab }) => ({ dab: { ...dab, ...part } })),
    markSpots: (marked, spots) => set({ marked, spots }),
    setLaying: (laying) => set({ laying }),
    setCatching: (catching) => set({ catching }),
    setTrial: (trial) => set({ trial }),
    setAlong: (along) => set({ along }),
    hover: (spot) => set({ spot, along: spot && nearLine(useBench.getState().line, spot) }),
    setPath: (path) => set({ path }),
  }));

const Kept = createContext<StoreApi<PieceState> | undefined>(undefined);

/** Tools, marks and zoom belong to one piece: a store of its own for what is inside. */
export function PieceStore({ pieceId, children }: { pieceId: string; children: ReactNode }) {
  const [store] = useState(() => makeStore(pieceId));
  return <Kept value={store}>{children}</Kept>;
}

/** What is kept of the piece that this is part of. */
export function usePieceStore(): PieceState;
export function usePieceStore<T>(select: (state: PieceState) => T): T;
export function usePieceStore<T>(select: (state: PieceState) => T | PieceState = (state) => state) {
  const store = useContext(Kept);
  if (!store) throw new Error("outside of a PieceStore");
  return useStore(store, select);
}
