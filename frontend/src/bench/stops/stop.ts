import type { ComponentType } from "react";
import type { Figures, FiguresOfHeights, Piece, PieceOfHeights, Recipe } from "../../api/client";
import type { At } from "../at";
import type { Frame } from "../picture/frame";
import type { Step, StepKind } from "../steps/kinds";
import type { OpenPiece } from "../usePiece";
import type { PieceMesh } from "../usePieceMesh";

/** What every control panel is given. */
export interface PanelProps<P = Piece, F = Figures> {
  piece: P;
  recipe: Recipe;
  figures: F | undefined;
  /** The figures once they are of the recipe on the screen, or it cannot be made. */
  figuresOnce: () => Promise<Figures | undefined>;
  edit: OpenPiece["edit"];
  settle: OpenPiece["settle"];
  /** Whether what is shown is also what is kept. */
  resting: boolean;
}

export interface TrailProps<P = Piece, F = Figures> {
  piece: P;
  recipe: Recipe;
  figures: F | undefined;
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
export interface UnderProps<F = Figures> {
  recipe: Recipe;
  resting: boolean;
  figures: F | undefined;
  frame: Frame;
  edit: OpenPiece["edit"];
}

/** Steps whose tools and grips act in the picture. */
export interface Acting {
  /** Where the bench keeps which one is open. */
  list: string;
  place: At<Step[]>;
  kindOf: (step: Step) => StepKind<Step, object> & { drawnBefore?: boolean };
}

/** A stop of the trail: a file each, and a line in the table. */
export interface Stop<P = Piece, F = Figures> {
  id: string;
  name: string;
  Panel: ComponentType<PanelProps<P, F>>;
  /** A hook: it may ask the core. */
  useTold: (props: TrailProps<P, F>) => Told;
  acting?: Acting;
  Under?: ComponentType<UnderProps<F>>;
  /** The picture is all there is to be seen in the picture: no section line lies on it. */
  bare?: boolean;
  /** Of a body: it works on the art of the open decoration. */
  ofArt?: boolean;
  /** The section shows the light. */
  light?: boolean;
}

export type HeightsPanel = PanelProps<PieceOfHeights, FiguresOfHeights>;
export type HeightsTrail = TrailProps<PieceOfHeights, FiguresOfHeights>;

/** A stop that only pieces with heights have: the table gives it to no others. */
export const ofHeights = (stop: Stop<PieceOfHeights, FiguresOfHeights>) => stop as unknown as Stop;
