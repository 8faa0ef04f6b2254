import type { FinishStep } from "../../../api/client";
import type { Kinds } from "../kinds";
import { even } from "./even";
import type { FinishContext, Moving } from "./finishing";
import { hollow } from "./hollow";
import { join } from "./join";
import { rebuild } from "./rebuild";
import { repair } from "./repair";
import { scale } from "./scale";
import { simplify } from "./simplify";
import { smooth } from "./smooth";
import { trim } from "./trim";
import { turn } from "./turn";

/** In the order of the menu. */
export const FINISH: Kinds<FinishStep, FinishContext, Moving> = { repair, rebuild, simplify, even, smooth, trim, hollow, join, scale, turn };
