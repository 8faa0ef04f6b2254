import type { Figures, Piece, Recipe } from "../../api/client";
import type { OpenPiece } from "../usePiece";

/** What every control panel is given. */
export interface PanelProps {
  piece: Piece;
  recipe: Recipe;
  figures: Figures | undefined;
  edit: OpenPiece["edit"];
  settle: OpenPiece["settle"];
  /** Whether what is shown is also what is kept. */
  resting: boolean;
}
