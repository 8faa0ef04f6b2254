import type { ComponentType } from "react";
import type { ErrorDetail, Recipe, Stroke } from "../../api/client";
import { newId } from "../../api/fresh";
import type { Frame, Spot } from "../picture/frame";
import type { Shown } from "../picture/useCorrected";

/** A step of an ordered list: a correction, an entry of the build-up, a fitting. */
export interface Step {
  id: string;
  kind: string;
  name: string;
  enabled: boolean;
}

export interface Remark {
  error: ErrorDetail;
  refused: boolean;
}

/** Change some of a step, whatever else of it has changed meanwhile. */
type Set<S> = (part: Partial<S>, resting?: boolean) => void;

/** What the editor of a kind is given: its step, and what its list knows beside. */
export type EditorProps<S, C> = C & { step: S; index: number; set: Set<S> };

/** What draws the grips of a step in the picture is given. */
export interface HandlesProps<S> {
  step: S;
  /** How an undo step calls it. */
  word: string;
  recipe: Recipe;
  resting: boolean;
  frame: Frame;
  shown: Shown;
  change: (part: Partial<S>, resting: boolean, label?: string) => void;
}

export interface Clicked {
  /** Pixels of the picture as it was brought in. */
  place: Spot;
  tone: () => number;
  /** As it was brought in, where that is shown. */
  colour: () => [number, number, number] | undefined;
  /** Of the piece there, above its backing, mm. */
  height: () => number;
}

export interface Box {
  x: number;
  y: number;
  wide: number;
  tall: number;
}

/** What a tool leaves: part of the step, and the tool that follows. */
export interface Left<S> {
  part: Partial<S>;
  then?: string;
  resting?: boolean;
  label?: string;
}

/** What the pointer does in the picture while a tool is chosen. */
export type Tool<S> = { offered?: (step: S) => boolean } & (
  | { by: "click"; done: (step: S, clicked: Clicked) => Left<S> | undefined }
  | { by: "stroke"; colour?: string; done: (step: S, stroke: Stroke) => Left<S> }
  | { by: "box"; done: (step: S, box: Box) => Left<S> }
);

/** How one that has a place is sized by hand. */
export interface Placing<S> {
  /** The number that the size grip changes, mm. */
  size: (step: S) => number;
  /** What makes it larger or smaller as a whole. */
  scaled: (step: S, factor: number) => Partial<S>;
}

/** All that the screen knows of one kind of step; a file per kind. */
export interface StepKind<S, C> {
  name: string;
  /** What it is for, in a few words. */
  purpose: string;
  /** What the trade calls it besides. */
  also?: string;
  /** Where it stands in the menu. */
  group?: string;
  /** There is one from the start; none is added, copied or taken away. */
  only?: boolean;
  /** Its main number, for the list. */
  figure: (step: S, context: C) => string;
  /** What one that has no name of its own is called. */
  title?: (step: S) => string;
  /** How an undo step calls it, where that is not the title. */
  word?: string;
  /** What a fresh one says, beside or instead of the core's own. */
  fresh?: (context: C) => Partial<S>;
  /** Why none can be added. */
  missing?: (context: C) => string | undefined;
  Editor: ComponentType<EditorProps<S, C>>;
  Handles?: ComponentType<HandlesProps<S>>;
  placing?: Placing<S>;
  tools?: Record<string, Tool<S>>;
  firstTool?: string;
}

/** A kind that is left out is a type error. */
export type Kinds<S extends Step, C, More = unknown> = {
  [K in S["kind"]]: StepKind<Extract<S, { kind: K }>, C> & More;
};

/** The kind of a step, whichever of the union it is. */
export const kindOf = <S extends Step, C, More>(kinds: Kinds<S, C, More>, step: Step): StepKind<S, C> & More =>
  kinds[step.kind as S["kind"]] as unknown as StepKind<S, C> & More;

export const newStep = <S extends Step, C>(kind: StepKind<S, C>, defaults: object, context: C, prefix: string): S =>
  ({ ...defaults, ...kind.fresh?.(context), id: newId(prefix) }) as unknown as S;

export function titleOf<S extends Step, C>(kind: StepKind<S, C>, step: S): string {
  return step.name || (kind.title?.(step) ?? kind.name);
}

/** How an undo step calls one: never by words that are only half typed. */
export const wordOf = <S extends Step, C>(kind: StepKind<S, C>, step: S): string =>
  step.name ? step.name.toLowerCase() : (kind.word ?? titleOf(kind, step).toLowerCase());
