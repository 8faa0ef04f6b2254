import type { Correction, Recipe } from "../../api/client";

/** What the editor of one kind is given. */
export interface Editing<K extends Correction["kind"]> {
  step: Extract<Correction, { kind: K }>;
  index: number;
  recipe: Recipe;
  /** Change some of it. */
  set: (part: Partial<Extract<Correction, { kind: K }>>, resting?: boolean) => void;
}
