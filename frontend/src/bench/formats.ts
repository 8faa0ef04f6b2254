/** What a mesh can be saved as. */
interface Format {
  /** What is made. */
  product: string;
  name: string;
  purpose: string;
  /** Bytes of a file of so many triangles; about, except for one. */
  bytes: (triangles: number) => number;
  exact?: boolean;
}

export const FORMATS = [
  {
    product: "piece.stl",
    name: "STL",
    purpose: "Binary STL in millimetres: triangles alone, read by everything.",
    bytes: (triangles) => 84 + 50 * triangles,
    exact: true,
  },
  {
    product: "piece.3mf",
    name: "3MF",
    purpose: "3MF in millimetres: says its unit and is packed small.",
    bytes: (triangles) => 14 * triangles,
  },
  {
    product: "piece.obj",
    name: "OBJ",
    purpose: "OBJ in millimetres, as text, for modelling programs.",
    bytes: (triangles) => 33 * triangles,
  },
  {
    product: "piece.ply",
    name: "PLY",
    purpose: "Binary PLY in millimetres, small and exact.",
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
    purpose: "OFF in millimetres, as text, for computing with it.",
    bytes: (triangles) => 32 * triangles,
  },
  {
    product: "piece-text.stl",
    name: "text STL",
    purpose: "STL as text in millimetres, for programs that take nothing else.",
    bytes: (triangles) => 220 * triangles,
  },
] as const satisfies readonly Format[];

export type FormatName = (typeof FORMATS)[number]["name"];

const LAST = "nebrel.format";

/** What was chosen last on this computer. */
export function lastFormat(): FormatName {
  const kept = readKept();
  return FORMATS.find(({ name }) => name === kept)?.name ?? "STL";
}

function readKept(): string | null {
  try {
    return localStorage.getItem(LAST);
  } catch {
    return null; // kept from us: the usual one
  }
}

export function rememberFormat(name: FormatName) {
  try {
    localStorage.setItem(LAST, name);
  } catch {
    // Not remembered, then.
  }
}
