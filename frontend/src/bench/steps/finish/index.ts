import type { FinishStep } from "../../../api/client";
import type { Kinds } from "../kinds";
import { colour } from "./colour";
import { even } from "./even";
import type { FinishContext, Moving } from "./finishing";
import { hollow } from "./hollow";
import { join } from "./join";
import { lay } from "./lay";
import { push } from "./push";
import { rebuild } from "./rebuild";
import { repair } from "./repair";
import { scale } from "./scale";
import { simplify } from "./simplify";
import { smooth } from "./smooth";
import { soften } from "./soften";
import { split } from "./split";
import { thicken } from "./thicken";
import { trim } from "./trim";
import { turn } from "./turn";

/** In the order of the menu. */
export const FINISH: Kinds<FinishStep, FinishContext, Moving> = {
  repair,
  rebuild,
  thicken,
  simplify,
  even,
  smooth,
  push,
  soften,
  trim,
  hollow,
  split,
  join,
  scale,
  turn,
  lay,
  colour,
};
