import exported from "../theme/colours.module.scss";

type Name =
  | "plaster"
  | "ink"
  | "quiet"
  | "line"
  | "madder"
  | "lichen"
  | "ochre"
  | "brick"
  | "stone"
  | "lamp"
  | "sky"
  | "ground"
  | "chalk"
  | "ruler"
  | "edge"
  | "bars"
  | "faint"
  | "shade"
  | "comb"
  | "slope";

/** The colours of the screen, as the stylesheet has them. */
export const COLOURS = { ...(exported as Record<Name, string>), white: "#fff", black: "#000" };
