import type { ComponentType } from "react";
import type { Figures, Piece, Recipe } from "../../api/client";
import type { At } from "../at";
import type { Frame } from "../picture/frame";
import type { Step, StepKind } from "../steps/kinds";
import type { OpenPiece } from "../usePiece";
import type { PieceMesh } from "../usePieceMesh";

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

export interface TrailProps {
  piece: Piece;
  recipe: Recipe;
  figures: Figures | undefined;
  mesh: PieceMesh;
  /** Whether the stop is the one that is open. */
  open: boolean;
}

/** What the trail says of a stop. */
export interface Told {
  figure: string;
  state: string;
  tone: "good" | "caution" | "wrong" | "quiet";
}

/** What is drawn in the picture below the grips is given. */
export interface UnderProps {
  recipe: Recipe;
  resting: boolean;
  figures: Figures | undefined;
  frame: Frame;
}

/** Steps whose tools and grips act in the picture. */
export interface Acting {
  /** Where the bench keeps which one is open. */
  list: string;
  place: At<Step[]>;
  kindOf: (step: Step) => StepKind<Step, object> & { drawnBefore?: boolean };
}

/** A stop of the trail: a file each, and a line in the table. */
export interface Stop {
  id: string;
  name: string;
  Panel: ComponentType<PanelProps>;
  /** A hook: it may ask the core. */
  useTold: (props: TrailProps) => Told;
  acting?: Acting;
  Under?: ComponentType<UnderProps>;
  /** The picture is all there is to be seen in the picture: no section line lies on it. */
  bare?: boolean;
  /** The section shows the light. */
  light?: boolean;
}
