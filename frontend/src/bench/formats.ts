/** What a mesh can be saved as. */
interface Format {
  /** What is made. */
  product: string;
  name: string;
  purpose: string;
  /** Bytes of a file of so many triangles; about, except for one. */
  bytes: (triangles: number) => number;
  exact?: boolean;
  /** It says neither a unit nor which way is up: both are chosen. */
  bare?: boolean;
}

export const UNITS = ["mm", "cm", "m", "in"] as const;
export type FileUnit = (typeof UNITS)[number];
export type Up = "z" | "y";

/** What is made of a piece as a format, in a unit, standing on an axis. */
export function productOf(format: Format, unit: FileUnit, up: Up): string {
  if (!format.bare) return format.product;
  const dot = format.product.indexOf(".");
  const [name, ending] = [format.product.slice(0, dot), format.product.slice(dot + 1)];
  return `${name}${unit === "mm" ? "" : `-${unit}`}${up === "z" ? "" : "-y"}.${ending}`;
}

export const FORMATS = [
  {
    product: "piece.stl",
    name: "STL",
    purpose: "Binary STL: triangles alone, read by everything.",
    bare: true,
    bytes: (triangles) => 84 + 50 * triangles,
    exact: true,
  },
  {
    product: "piece.3mf",
    name: "3MF",
    purpose: "3MF in millimetres: says its unit, its name and its colours, an object a body, and is packed small.",
    bytes: (triangles) => 14 * triangles,
  },
  {
    product: "piece.obj",
    name: "OBJ",
    purpose: "OBJ, as text, with colours, for modelling programs.",
    bare: true,
    bytes: (triangles) => 33 * triangles,
  },
  {
    product: "piece.obj.zip",
    name: "OBJ + MTL",
    purpose: "OBJ with its colours as materials in an MTL, both in a ZIP.",
    bare: true,
    bytes: (triangles) => 12 * triangles,
  },
  {
    product: "piece.ply",
    name: "PLY",
    purpose: "Binary PLY, small and exact, with colours.",
    bare: true,
    bytes: (triangles) => 19 * triangles,
  },
  {
    product: "model.glb",
    name: "GLB",
    purpose: "Binary glTF in metres with y up, as that format has it, for the web and for rendering.",
    bytes: (triangles) => 18 * triangles,
  },
  {
    product: "piece.off",
    name: "OFF",
    purpose: "OFF, as text, with colours, for computing with it.",
    bare: true,
    bytes: (triangles) => 32 * triangles,
  },
  {
    product: "piece-text.stl",
    name: "text STL",
    purpose: "STL as text, for programs that take nothing else.",
    bare: true,
    bytes: (triangles) => 220 * triangles,
  },
] as const satisfies readonly Format[];

export type FormatName = (typeof FORMATS)[number]["name"];

const LAST = "nebrel.format";
const LAST_AS = "nebrel.format.as";

/** The unit and the axis that were chosen last for formats that say none. */
export function lastAs(): [FileUnit, Up] {
  const [unit, up] = (readKept(LAST_AS) ?? "").split(" ");
  return [UNITS.find((one) => one === unit) ?? "mm", up === "y" ? "y" : "z"];
}

export const rememberAs = (unit: FileUnit, up: Up) => keep(LAST_AS, `${unit} ${up}`);

/** What was chosen last on this computer. */
export function lastFormat(): FormatName {
  const kept = readKept(LAST);
  return FORMATS.find(({ name }) => name === kept)?.name ?? "STL";
}

function readKept(name: string): string | null {
  try {
    return localStorage.getItem(name);
  } catch {
    return null; // kept from us: the usual one
  }
}

export const rememberFormat = (name: FormatName) => keep(LAST, name);

function keep(name: string, value: string) {
  try {
    localStorage.setItem(name, value);
  } catch {
    // Not remembered, then.
  }
}
