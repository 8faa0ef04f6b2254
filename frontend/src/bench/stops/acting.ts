import type { At } from "../at";
import { type Kinds, kindOf, type Step } from "../steps/kinds";
import type { Acting } from "./stop";

/** The steps of a list, whose tools and grips act in the picture, whatever they are steps of. */
export const acting = <S extends Step, C, More>(list: string, place: At<S[]>, kinds: Kinds<S, C, More>): Acting => ({
  list,
  place: place as unknown as Acting["place"],
  kindOf: ((step: Step) => kindOf(kinds, step)) as unknown as Acting["kindOf"],
});
