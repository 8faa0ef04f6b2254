import type { Correction, CorrectionKind, Piece } from "../../api/client";
import { FRESH, newId } from "../../api/fresh";
import { mm } from "../../shared/format";

type Made<K extends CorrectionKind> = Extract<Correction, { kind: K }>;

interface Kind<K extends CorrectionKind> {
  name: string;
  /** What it is for, in a few words. */
  purpose: string;
  /** Its main number, for the list. */
  figure: (step: Made<K>) => string;
  /** What a fresh one of this picture says, beside or instead of the core's own. */
  fresh?: (piece: Piece) => Partial<Made<K>>;
}

const length = (value: { mm: number }) => `${mm(value.mm)} mm`;
const tone = (value: number) => mm(value, 3);
const count = (many: number, one: string) => `${many} ${one}${many === 1 ? "" : "s"}`;
const middle = ({ picture }: Piece): [number, number] => [
  (picture.cols - 1) / 2,
  (picture.rows - 1) / 2,
];

export const KINDS: { [K in CorrectionKind]: Kind<K> } = {
  crop: {
    name: "Crop",
    purpose: "keep a box, or what differs from the background",
    figure: (step) =>
      step.by === "content"
        ? "to content"
        : step.box
          ? `${Math.round(step.box.wide)} × ${Math.round(step.box.tall)} px`
          : "",
    fresh: ({ picture }) => ({ box: { x: 0, y: 0, wide: picture.cols, tall: picture.rows } }),
  },
  turn: {
    name: "Turn",
    purpose: "quarter turns and straightening",
    figure: (step) => `${step.quarters * 90 + step.degrees}°`,
    fresh: () => ({ quarters: 1 }),
  },
  mirror: {
    name: "Mirror",
    purpose: "left for right, or top for bottom",
    figure: (step) => step.axis.replace("-", ", "),
  },
  resize: {
    name: "Resize",
    purpose: "another number of pixels",
    figure: (step) => `${step.cols} px`,
    fresh: ({ picture }) => ({ cols: Math.max(2, Math.round(picture.cols / 2)) }),
  },
  enlarge: {
    name: "Enlarge",
    purpose: "more pixels for a small source",
    figure: (step) => `× ${mm(step.factor)}`,
  },
  extend: {
    name: "Extend",
    purpose: "more canvas around, for a rim",
    figure: (step) =>
      step.percent != null
        ? `${mm(step.percent)} %`
        : [step.left, step.right, step.top, step.bottom].every((s) => s.mm === step.left.mm)
          ? length(step.left)
          : "uneven",
    fresh: () => {
      const side = { mm: 3 };
      return { left: side, right: side, top: side, bottom: side };
    },
  },
  true_size: {
    name: "True size",
    purpose: "say what a length really measures",
    figure: (step) => length(step.length),
    fresh: () => ({ length: { mm: 100 } }),
  },
  levels: {
    name: "Levels",
    purpose: "black point, white point, mid-tone",
    figure: (step) => (step.auto ? "automatic" : `${tone(step.black)} to ${tone(step.white)}`),
    fresh: () => ({ auto: true }),
  },
  curve: {
    name: "Curve",
    purpose: "tones along a smooth curve",
    figure: (step) => count(step.points.length, "point"),
  },
  invert: { name: "Invert", purpose: "dark for light", figure: () => "" },
  contrast: {
    name: "Contrast",
    purpose: "tones away from middle gray",
    figure: (step) => mm(step.amount),
  },
  local_contrast: {
    name: "Local contrast",
    purpose: "details stand out more",
    figure: (step) => mm(step.amount),
    fresh: () => ({ amount: 0.8 }),
  },
  exposure: {
    name: "Exposure",
    purpose: "more light for a faded or dark print",
    figure: (step) => `${mm(step.stops)} stops`,
  },
  even_light: {
    name: "Even light",
    purpose: "one tone for an unevenly lit background",
    figure: (step) => `to ${tone(step.tone)}`,
  },
  read_from: {
    name: "Read from",
    purpose: "which colour is the tone; what transparent means",
    figure: (step) => step.channel,
  },
  tone_steps: {
    name: "Tone steps",
    purpose: "a few flat tones with clean borders",
    figure: (step) => count(step.tones.length || step.count, "tone"),
  },
  threshold: {
    name: "Threshold",
    purpose: "black and white only",
    figure: (step) => (step.method === "manual" ? tone(step.level) : step.method),
  },
  smooth: {
    name: "Smooth",
    purpose: "calm noise and grain",
    figure: (step) => length(step.radius),
    fresh: () => ({ method: "edge_keeping", radius: { mm: 0.4 } }),
  },
  despeckle: {
    name: "Despeckle",
    purpose: "take out specks up to an area",
    figure: (step) => `${mm(step.area)} mm²`,
  },
  thicken: {
    name: "Thicken lines",
    purpose: "wider or thinner dark or light lines",
    figure: (step) => (step.at_least ? `to ${length(step.at_least)}` : length(step.by)),
  },
  isolate: {
    name: "Isolate",
    purpose: "keep the subject, drop what is behind it",
    figure: (step) => (step.method === "colour" ? `within ${tone(step.tolerance)}` : "by strokes"),
  },
  remove: {
    name: "Remove",
    purpose: "paint over something that must go",
    figure: (step) => count(step.strokes.length, "stroke"),
  },
  fill: {
    name: "Fill",
    purpose: "give an area of like tone another tone",
    figure: (step) => `to ${tone(step.tone)}`,
    fresh: (piece) => ({ at: middle(piece) }),
  },
  brush: {
    name: "Brush",
    purpose: "paint a tone",
    figure: (step) => count(step.strokes.length, "stroke"),
  },
  overlay: {
    name: "Second picture",
    purpose: "lay another picture or a motif on top",
    figure: (step) => step.filename || step.blend,
    fresh: (piece) => ({
      sha256: piece.picture.sha256,
      centre: middle(piece),
      wide: piece.picture.cols / 2,
    }),
  },
  tile: {
    name: "Make it tile",
    purpose: "edges that meet when it repeats",
    figure: (step) => `${mm(step.overlap * 100, 0)} %`,
  },
};

/** The order of the menu: as a person works. */
export const GROUPS: [string, CorrectionKind[]][] = [
  ["Frame", ["crop", "turn", "mirror", "extend", "true_size", "resize", "enlarge", "tile"]],
  ["Tones", ["levels", "curve", "exposure", "contrast", "local_contrast", "invert", "even_light", "read_from", "tone_steps", "threshold"]],
  ["Cleaning", ["smooth", "despeckle", "thicken"]],
  ["Parts", ["isolate", "remove", "fill", "brush", "overlay"]],
];

/** Corrections after which the width of the piece is no longer that of the picture. */
export const FRAMING: CorrectionKind[] = ["crop", "turn", "extend", "true_size", "resize", "tile"];

export const figureOf = (step: Correction) =>
  (KINDS[step.kind].figure as (made: Correction) => string)(step);

export function freshCorrection(kind: CorrectionKind, piece: Piece): Correction {
  return { ...FRESH.corrections[kind], ...KINDS[kind].fresh?.(piece), id: newId("correction") } as Correction;
}

/** A remedy of the report, as a correction of its own. */
export const fromRemedy = (remedy: Correction): Correction => ({ ...remedy, id: newId("correction"), name: "", enabled: true });

export const copyOf = (step: Correction): Correction => ({ ...step, id: newId("correction") });
