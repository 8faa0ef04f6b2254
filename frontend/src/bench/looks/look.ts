import type { ComponentType } from "react";
import type { Figures, Piece, Recipe } from "../../api/client";
import type { ShownMesh } from "../usePieceMesh";

export interface SurfaceProps {
  piece: Piece;
  shown: ShownMesh;
  recipe: Recipe;
  resting: boolean;
}

/** A way of seeing the piece: a file each, and a line in the table. */
export interface Look {
  id: string;
  words: string;
  title?: string;
  /** The key that turns it on and off. */
  key?: string;
  /** Offered only while this one or that one is on. */
  beside?: string;
  Surface: ComponentType<SurfaceProps>;
  /** What its colours mean, below the view. */
  Legend?: ComponentType<Omit<SurfaceProps, "shown">>;
  /** Offered for such a piece only. */
  suits?: (recipe: Recipe, figures: Figures | undefined) => boolean;
  /** The table is dark. */
  dark?: boolean;
  /** The section shows the light. */
  light?: boolean;
}
