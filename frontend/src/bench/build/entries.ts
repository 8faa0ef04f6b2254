import type { Entry, Length, Outline, Unit } from "../../api/client";
import { FRESH, newId } from "../../api/fresh";
import { mm } from "../../shared/format";

export type EntryKind = Entry["kind"];
export type Placed = Extract<Entry, { x?: unknown }>;

export const OUTLINES: { [K in Outline["kind"]]: string } = {
  rectangle: "Rectangle",
  ellipse: "Ellipse",
  polygon: "Polygon",
  star: "Star",
  line: "Line",
  ring: "Ring",
};

/** What can be added, with a word on what it is for. */
export const ADDABLE: [Exclude<EntryKind, "picture">, string, string][] = [
  ["outline", "Shape", "rectangle, ellipse, polygon, star, line, ring"],
  ["text", "Text", "lettering in weights that print"],
  ["frame", "Frame", "along the edge or the outline"],
  ["pattern", "Pattern", "a shape or motif on a grid or ring"],
  ["motif", "Motif", "from the shelf's motifs"],
];

/** What the screen begins with, where that is not the core's own. */
const BEGUN = {
  outline: { rule: "highest" },
  text: { rule: "add", height: { mm: 0.8 }, face: "plain_heavy" },
  frame: {},
  pattern: { rule: "add", height: { mm: 0.8 } },
  motif: { rule: "add" },
} as const;

/** A fresh entry; a motif needs one of the library. */
export function freshEntry(kind: Exclude<EntryKind, "picture">, motif: string): Entry {
  const own = kind === "motif" ? { motif: freshMotif(motif) } : {};
  return { ...FRESH.entries[kind], ...BEGUN[kind], ...own, id: newId("entry") } as Entry;
}

export const freshMotif = (sha256: string) => ({ ...FRESH.units.motif, sha256 });

export function entryName(entry: Entry): string {
  if (entry.name) return entry.name;
  switch (entry.kind) {
    case "picture":
      return "Picture";
    case "outline":
      return OUTLINES[entry.outline.kind];
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

export function entryFigure(entry: Entry, backing: Length): string {
  if (entry.kind !== "picture") return entry.rule === "cut" ? "cut through" : `${mm(entry.height.mm)} mm`;
  const { mapping, depth, pins } = entry;
  if (mapping === "light") return `${mm(backing.mm)} to ${mm(backing.mm + depth.mm)} mm`;
  if (mapping === "straight") return `0 to ${mm(depth.mm)} mm`;
  const tops = pins.flatMap((pin) => (pin.mm ? [pin.mm.mm] : []));
  return tops.length ? `${mm(Math.min(...tops))} to ${mm(Math.max(...tops))} mm` : "";
}

/** The number that the size grip changes, mm; none for what has no size of its own. */
export function entrySize(entry: Placed): number {
  switch (entry.kind) {
    case "outline":
      return entry.outline.wide.mm;
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
    case "outline": {
      const { outline } = entry;
      const wide = by(outline.wide, factor);
      const taller = "tall" in outline && outline.kind !== "line" ? { tall: by(outline.tall, factor) } : {};
      return { ...entry, outline: { ...outline, wide, ...taller } as Outline };
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
