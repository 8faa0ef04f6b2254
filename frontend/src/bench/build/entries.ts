import type { Recipe } from "../../api/client";
import { mm } from "../../shared/format";

export type Heights = Recipe["heights"];
export type Entry = Heights["build_up"][number];
export type EntryKind = Entry["kind"];
export type Placed = Extract<Entry, { x?: unknown }>;
export type Shape = Extract<Entry, { kind: "shape" }>["shape"];
export type Unit = Extract<Entry, { kind: "pattern" }>["unit"];

const none = { mm: 0 };
const sharp = { kind: "sharp", reach: { mm: 1 }, softness: 0.5 } as const;
const base = () => ({ id: `entry-${crypto.randomUUID().slice(0, 8)}`, name: "", enabled: true });
const placed = { x: none, y: none, turn: 0, profile: sharp } as const;

export const SHAPES: { [K in Shape["kind"]]: { name: string; fresh: Extract<Shape, { kind: K }> } } = {
  rectangle: { name: "Rectangle", fresh: { kind: "rectangle", wide: { mm: 30 }, tall: { mm: 20 }, corner: none } },
  ellipse: { name: "Ellipse", fresh: { kind: "ellipse", wide: { mm: 30 }, tall: { mm: 20 } } },
  polygon: { name: "Polygon", fresh: { kind: "polygon", wide: { mm: 24 }, sides: 6 } },
  star: { name: "Star", fresh: { kind: "star", wide: { mm: 24 }, points: 5, inner: 0.45 } },
  line: { name: "Line", fresh: { kind: "line", wide: { mm: 40 }, tall: { mm: 1.2 } } },
  ring: { name: "Ring", fresh: { kind: "ring", wide: { mm: 30 }, band: { mm: 2 } } },
};

/** What can be added, with a word on what it is for. */
export const ADDABLE: [Exclude<EntryKind, "picture">, string, string][] = [
  ["shape", "Shape", "rectangle, ellipse, polygon, star, line, ring"],
  ["text", "Text", "lettering in weights that print"],
  ["frame", "Frame", "along the edge or the outline"],
  ["pattern", "Pattern", "a shape or motif on a grid or ring"],
  ["motif", "Motif", "from the shelf's motifs"],
];

/** A fresh entry; a motif needs one of the library. */
export function freshEntry(kind: Exclude<EntryKind, "picture">, motif: string): Entry {
  const height = { mm: 2 };
  switch (kind) {
    case "shape":
      return { ...base(), kind, ...placed, rule: "highest", height, shape: SHAPES.rectangle.fresh };
    case "text":
      return {
        ...base(),
        kind,
        ...placed,
        rule: "add",
        height: { mm: 0.8 },
        text: "Corvane Hill",
        face: "plain_heavy",
        capital: { mm: 8 },
        align: "centre",
        spacing: none,
        leading: 1.5,
        arc: none,
      };
    case "frame":
      return {
        ...base(),
        kind,
        rule: "replace",
        height: { mm: 3 },
        wide: { mm: 4 },
        inset: none,
        along: "edge",
        section: "square",
      };
    case "pattern":
      return {
        ...base(),
        kind,
        ...placed,
        rule: "add",
        height: { mm: 0.8 },
        unit: { ...SHAPES.star.fresh, wide: { mm: 10 } },
        layout: { kind: "grid", columns: 4, rows: 3, across: { mm: 20 }, up: { mm: 20 }, staggered: false },
      };
    case "motif":
      return { ...base(), kind, ...placed, rule: "add", height, motif: freshMotif(motif) };
  }
}

export const freshMotif = (sha256: string) =>
  ({ kind: "motif", sha256, filename: "", wide: { mm: 20 }, by: "outline", raised: "dark" }) as const;

export function entryName(entry: Entry): string {
  if (entry.name) return entry.name;
  switch (entry.kind) {
    case "picture":
      return "Picture";
    case "shape":
      return SHAPES[entry.shape.kind].name;
    case "text":
      return `“${entry.text.split("\n")[0].slice(0, 22)}”`;
    case "frame":
      return "Frame";
    case "pattern":
      return entry.layout.kind === "grid" ? "Pattern, grid" : "Pattern, ring";
    case "motif":
      return "Motif";
  }
}

/** How an undo step calls an entry: never by words that are only half typed. */
export const entryWord = (entry: Entry) =>
  entry.kind === "text" && !entry.name ? "text" : entryName(entry).toLowerCase();

export function entryFigure(entry: Entry, heights: Heights): string {
  if (entry.kind !== "picture") return entry.rule === "cut" ? "cut through" : `${mm(entry.height.mm)} mm`;
  if (heights.mapping === "light")
    return `${mm(heights.backing.mm)} to ${mm(heights.backing.mm + heights.depth.mm)} mm`;
  if (heights.mapping === "straight") return `0 to ${mm(heights.depth.mm)} mm`;
  const tops = heights.pins.flatMap((pin) => (pin.mm ? [pin.mm.mm] : []));
  return tops.length ? `${mm(Math.min(...tops))} to ${mm(Math.max(...tops))} mm` : "";
}

/** The number that the size grip changes, mm; none for what has no size of its own. */
export function entrySize(entry: Placed): number {
  switch (entry.kind) {
    case "shape":
      return entry.shape.wide.mm;
    case "text":
      return entry.capital.mm;
    case "motif":
      return entry.motif.wide.mm;
    case "pattern":
      return entry.unit.wide.mm;
  }
}

const by = (length: { mm: number }, factor: number) => ({ mm: Number((length.mm * factor).toFixed(3)) });

/** The same entry, larger or smaller as a whole. */
export function scaled(entry: Placed, factor: number): Placed {
  switch (entry.kind) {
    case "shape": {
      const { shape } = entry;
      const wide = by(shape.wide, factor);
      if ("tall" in shape && shape.kind !== "line") {
        const tall = by(shape.tall, factor);
        return { ...entry, shape: { ...shape, wide, tall } as Shape };
      }
      return { ...entry, shape: { ...shape, wide } };
    }
    case "text":
      return { ...entry, capital: by(entry.capital, factor), spacing: by(entry.spacing, factor), arc: by(entry.arc, factor) };
    case "motif":
      return { ...entry, motif: { ...entry.motif, wide: by(entry.motif.wide, factor) } };
    case "pattern": {
      const { layout, unit } = entry;
      const sized = { ...unit, wide: by(unit.wide, factor) } as Unit;
      return layout.kind === "grid"
        ? { ...entry, unit: sized, layout: { ...layout, across: by(layout.across, factor), up: by(layout.up, factor) } }
        : { ...entry, unit: sized, layout: { ...layout, radius: by(layout.radius, factor) } };
    }
  }
}

export const isPlaced = (entry: Entry | undefined): entry is Placed => entry !== undefined && "x" in entry;
