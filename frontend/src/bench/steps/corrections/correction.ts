import type { Correction, PieceOfHeights, Recipe } from "../../../api/client";
import type { EditorProps, HandlesProps, StepKind } from "../kinds";

export interface CorrectionContext {
  piece: PieceOfHeights;
  recipe: Recipe;
}

/** What a correction does to the frame of the picture. */
export interface Framing {
  /** Afterwards the width of the piece is no longer that of the picture. */
  framing?: boolean;
  /** It is drawn in the picture as that stands before it. */
  drawnBefore?: boolean;
}

type Made<K extends Correction["kind"]> = Extract<Correction, { kind: K }>;

export type CorrectionStep<K extends Correction["kind"]> = StepKind<Made<K>, CorrectionContext> & Framing;
export type Editing<K extends Correction["kind"]> = EditorProps<Made<K>, CorrectionContext>;
export type Handling<K extends Correction["kind"]> = HandlesProps<Made<K>>;
