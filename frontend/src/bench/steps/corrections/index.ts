import { brush } from "./brush";
import { contrast } from "./contrast";
import { crop } from "./crop";
import { curve } from "./curve";
import { despeckle } from "./despeckle";
import { enlarge } from "./enlarge";
import { evenLight } from "./even_light";
import { exposure } from "./exposure";
import { extend } from "./extend";
import { fill } from "./fill";
import { invert } from "./invert";
import { isolate } from "./isolate";
import { levels } from "./levels";
import { localContrast } from "./local_contrast";
import { mirror } from "./mirror";
import { overlay } from "./overlay";
import { readFrom } from "./read_from";
import { remove } from "./remove";
import { resize } from "./resize";
import { smooth } from "./smooth";
import { thicken } from "./thicken";
import { threshold } from "./threshold";
import { tile } from "./tile";
import { toneSteps } from "./tone_steps";
import { trueSize } from "./true_size";
import { turn } from "./turn";
import type { Correction } from "../../../api/client";
import { FRESH, newId } from "../../../api/fresh";
import { kindOf, type Kinds, newStep } from "../kinds";
import type { CorrectionContext, Framing } from "./correction";

/** In the order of the menu: as a person works. */
export const CORRECTIONS: Kinds<Correction, CorrectionContext, Framing> = {
  crop,
  turn,
  mirror,
  extend,
  true_size: trueSize,
  resize,
  enlarge,
  tile,
  levels,
  curve,
  exposure,
  contrast,
  local_contrast: localContrast,
  invert,
  even_light: evenLight,
  read_from: readFrom,
  tone_steps: toneSteps,
  threshold,
  smooth,
  despeckle,
  thicken,
  isolate,
  remove,
  fill,
  brush,
  overlay,
};

export const correctionKind = (step: Correction) => kindOf(CORRECTIONS, step);

export const freshCorrection = (kind: Correction["kind"], context: CorrectionContext): Correction =>
  newStep(correctionKind({ kind } as Correction), FRESH.corrections[kind], context, "correction");

/** A remedy of the report, as a correction of its own. */
export const fromRemedy = (remedy: Correction): Correction => ({ ...remedy, id: newId("correction"), name: "", enabled: true });
