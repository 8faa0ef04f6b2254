import type { ReactNode } from "react";
import type { ReadyBody } from "../api/client";
import { COLOURS } from "./colours";

export type ReadyKind = ReadyBody["kind"];
export type SizeOf<K extends ReadyKind> = Exclude<keyof Extract<ReadyBody, { kind: K }>, "kind">;

interface Shape {
  name: string;
  purpose: string;
  /** Its sizes as the screen calls them, in order. */
  sizes: Record<string, string>;
  /** Seen from the front, in a square of 48. */
  drawn: ReactNode;
}

const line = { fill: COLOURS.stone, stroke: COLOURS.ink, strokeWidth: 1.3, strokeLinejoin: "round" as const };
const inner = { ...line, fill: COLOURS.bars };

/** The ready shapes: a line each. */
export const READY_SHAPES: { [K in ReadyKind]: Shape } = {
  plate: {
    name: "Plate",
    purpose: "flat",
    sizes: { wide: "Wide", deep: "Deep", tall: "Thick", corner: "Corners" },
    drawn: <path {...line} d="M5 30 14 18H43L34 30ZM5 30v4H34V30M34 34 43 22V18" />,
  },
  box: {
    name: "Box",
    purpose: "with rounded edges",
    sizes: { wide: "Wide", deep: "Deep", tall: "Tall", round: "Edges" },
    drawn: <path {...line} d="M8 18 17 10H40L31 18ZM8 18V38H31V18M31 38 40 30V10" />,
  },
  cylinder: {
    name: "Cylinder",
    purpose: "a column",
    sizes: { diameter: "Diameter", tall: "Tall", round: "Rims" },
    drawn: (
      <>
        <path {...line} d="M11 11V37a13 4 0 0 0 26 0V11" />
        <ellipse {...inner} cx="24" cy="11" rx="13" ry="4" />
      </>
    ),
  },
  tube: {
    name: "Band",
    purpose: "a tube, open at both ends",
    sizes: { diameter: "Diameter", tall: "Tall", wall: "Wall" },
    drawn: (
      <>
        <path {...line} d="M7 18V32a17 6 0 0 0 34 0V18" />
        <ellipse {...inner} cx="24" cy="18" rx="17" ry="6" />
        <ellipse {...line} fill={COLOURS.white} cx="24" cy="18" rx="12" ry="3.8" />
      </>
    ),
  },
  cone: {
    name: "Cone",
    purpose: "narrower above",
    sizes: { diameter: "Below", top: "Above", tall: "Tall" },
    drawn: <path {...line} d="M20 9 9 37a15 4.5 0 0 0 30 0L28 9Z" />,
  },
  beaker: {
    name: "Beaker",
    purpose: "hollow, with a floor",
    sizes: { diameter: "Below", top: "Above", tall: "Tall", wall: "Wall", floor: "Floor" },
    drawn: (
      <>
        <path {...line} d="M9 11 13 38a11 3.4 0 0 0 22 0L39 11" />
        <ellipse {...inner} cx="24" cy="11" rx="15" ry="4" />
      </>
    ),
  },
  mug: {
    name: "Mug",
    purpose: "with a handle",
    sizes: { diameter: "Diameter", tall: "Tall", wall: "Wall", floor: "Floor", handle: "Handle", reach: "Reaches" },
    drawn: (
      <>
        <path {...line} fill="none" strokeWidth="4" d="M31 18c9-3 13 2 11 8s-7 8-11 7" />
        <path {...line} d="M7 11V38a12 3.4 0 0 0 24 0V11" />
        <ellipse {...inner} cx="19" cy="11" rx="12" ry="3.6" />
      </>
    ),
  },
  sphere: { name: "Ball", purpose: "round all over", sizes: { diameter: "Diameter" }, drawn: <circle {...line} cx="24" cy="24" r="16" /> },
  dome: {
    name: "Dome",
    purpose: "a cap of a ball",
    sizes: { diameter: "Diameter", tall: "Tall" },
    drawn: <path {...line} d="M6 35a18 20 0 0 1 36 0 18 4 0 0 1-36 0Z" />,
  },
  ring: {
    name: "Finger ring",
    purpose: "with a flat face",
    sizes: { inside: "Inside", wide: "Band", thick: "Thick", face: "Face" },
    drawn: (
      <>
        <path {...line} d="M15 9H33L36 17a15 15 0 1 1-24 0Z" />
        <circle {...line} fill={COLOURS.white} cx="24" cy="27" r="10" />
      </>
    ),
  },
  torus: {
    name: "Doughnut",
    purpose: "a round all round",
    sizes: { diameter: "Diameter", thick: "Thick" },
    drawn: (
      <>
        <ellipse {...line} cx="24" cy="25" rx="19" ry="12" />
        <ellipse {...line} fill={COLOURS.white} cx="24" cy="23" rx="8" ry="4" />
      </>
    ),
  },
  medal: {
    name: "Medal",
    purpose: "a disc with a rim",
    sizes: { diameter: "Diameter", tall: "Thick", rim: "Rim", rim_tall: "Rim above" },
    drawn: (
      <>
        <circle {...line} cx="24" cy="24" r="17" />
        <circle {...inner} cx="24" cy="24" r="13" />
      </>
    ),
  },
  bottle: {
    name: "Bottle",
    purpose: "a drawn profile, turned",
    sizes: { wall: "Wall" },
    drawn: <path {...line} d="M20 7H28V17c1 5 7 6 7 12V38a11 3 0 0 1-22 0V29c0-6 6-7 7-12Z" />,
  },
};

/** A ready shape as a small drawing. */
export function ReadyMark({ kind }: { kind: ReadyKind }) {
  return (
    <svg width="48" height="48" viewBox="0 0 48 48" aria-hidden="true">
      {READY_SHAPES[kind].drawn}
    </svg>
  );
}
