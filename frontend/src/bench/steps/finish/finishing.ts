import type { Figures, FinishStep, Piece, Recipe, Schemas } from "../../../api/client";
import { hasHeights, hasPicture } from "../../at";
import { count, mm } from "../../../shared/format";
import type { EditorProps, StepKind } from "../kinds";

export type StepFigures = Schemas["StepFigures"];

/** What the list of finish steps knows beside them. */
export interface FinishContext {
  piece: Piece;
  recipe: Recipe;
  resting: boolean;
  /** What each step that is switched on came to, by its id. */
  done: Map<string, StepFigures>;
  figures: Figures | undefined;
}

/** Of a kind of finish step. */
export interface Moving {
  /** It keeps the shape, nearly: how far the surface moved is worth knowing. */
  near?: boolean;
}

/** Whether a step still waits for what it is done with: nothing is wrong with it. */
export const waits = (step: FinishStep): boolean => step.kind === "join" && step.other.kind === "piece" && step.other.piece_id === "";

/** Whether it was raised from a picture, on which each place of it lies. */
export const onPicture = (piece: Piece, recipe: Recipe): boolean => hasPicture(piece) && hasHeights(recipe);

/** What is left lies elsewhere after these. */
const MOVING: readonly FinishStep["kind"][] = ["scale", "turn", "lay", "split"];

/** Whether a piece is shown where it lies before its finish steps. */
export const staysWhereItIs = (list: FinishStep[]): boolean => !list.some((one) => one.enabled && MOVING.includes(one.kind));

/** Whether what a step has to do with lies where the piece is shown: nothing moves it afterwards. */
export function liesAsShown(list: FinishStep[], step: FinishStep): boolean {
  const after = list.slice(list.findIndex(({ id }) => id === step.id) + 1);
  return staysWhereItIs(after);
}

type Made<K extends FinishStep["kind"]> = Extract<FinishStep, { kind: K }>;

export type Finishing<K extends FinishStep["kind"]> = StepKind<Made<K>, FinishContext> & Moving;
export type Editing<K extends FinishStep["kind"]> = EditorProps<Made<K>, FinishContext>;

/** "512 k", where there is no room for all digits. */
export const short = (triangles: number): string =>
  triangles >= 1e6 ? `${mm(triangles / 1e6, 2)} M` : triangles >= 10_000 ? `${Math.round(triangles / 1000)} k` : count(triangles);

/** How many triangles there were before a step, and are after it. */
export function fewer(step: { id: string }, { done }: FinishContext, otherwise: string): string {
  const figures = done.get(step.id);
  return figures && !figures.error ? `${short(figures.before.triangles)} → ${short(figures.after.triangles)}` : otherwise;
}

export const sides = (size: number[]): string => size.map((side) => mm(side, 2)).join(" × ");

/** The middle of the mesh before a step along an axis, mm. */
export function middleAlong(id: string, axis: "x" | "y" | "z", context: FinishContext) {
  const [low, high] = reach({ id, axis }, context);
  return { mm: Number(((low + high) / 2).toFixed(2)), text: null };
}

/** From where to where the mesh reaches along an axis before a step, mm. */
export function reach(step: { id: string; axis: "x" | "y" | "z" }, { done }: FinishContext): [number, number] {
  const figures = done.get(step.id);
  const axis = "xyz".indexOf(step.axis);
  if (!figures) return [-500, 500];
  return [figures.low_mm[axis], figures.low_mm[axis] + figures.before.size_mm[axis]];
}
