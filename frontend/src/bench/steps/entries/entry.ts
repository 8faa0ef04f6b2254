import type { Entry, Motif, Recipe } from "../../../api/client";
import type { OpenPiece } from "../../usePiece";
import type { EditorProps, StepKind } from "../kinds";

export interface EntryContext {
  recipe: Recipe;
  edit: OpenPiece["edit"];
  /** Of the library. */
  motifs: Motif[];
}

export type Made<K extends Entry["kind"]> = Extract<Entry, { kind: K }>;
export type Placed = Extract<Entry, { x?: unknown }>;
/** What has an outline that may be moved, bridged, or become a wall. */
export type Outlined = Extract<Entry, { grow?: unknown }>;
export type Joined = Exclude<Entry, { kind: "picture" }>;

export type EntryStep<K extends Entry["kind"]> = StepKind<Made<K>, EntryContext>;
export type Editing<K extends Entry["kind"]> = EditorProps<Made<K>, EntryContext>;

export const isPlaced = (entry: Entry | undefined): entry is Placed => entry !== undefined && "x" in entry;

/** A length times a factor. */
export const by = (length: { mm: number }, factor: number) => ({ mm: Number((length.mm * factor).toFixed(3)) });
