import { addDrawing, addPicture, api, type Decoration, type Figures, type Motif, type Recipe, type Schemas, takeAs, type Texture } from "../../../api/client";
import { FRESH, newId } from "../../../api/fresh";
import { change, decorations } from "../../at";

type Asked = Partial<Schemas["ArtIn"]>;

/** Art as the core makes it: of a picture, or of one entry on nothing. */
const artOf = (asked: Asked, wideMm: number) =>
  takeAs<Decoration["art"]>(api.POST("/api/decorations/art", { body: { entry: "text", depth_mm: 1, wide_mm: wideMm, ...asked } }));

/** Of the room on a face that art takes. */
const OF_ROOM = 0.95;

/** The longer side of art that suits the body: as large as its face allows, or by the body's size. */
export function suitableSide(figures: Figures | undefined, short = 1, long = 1): number {
  const { room_mm: room, wide_mm: wide } = figures?.suits ?? { wide_mm: 20 };
  const side = room ? (OF_ROOM * 2 * room) / Math.hypot(1, short / long) : wide;
  return Number(side.toPrecision(2));
}

type Kept = Pick<Schemas["PictureOut"], "sha256" | "filename" | "rows" | "cols">;

type Placed = Pick<Decoration, "at" | "up">;

/** Where art on the body is seen at once. */
export function suitablePlace(figures: Figures | undefined): Placed {
  const { at, up } = figures?.suits ?? { at: [0, 0, 0], up: [0, 0, 1] };
  return { at: at as Placed["at"], up: up as Placed["up"] };
}

/** What can be laid on a body, and how it becomes art. */
export const SOURCES = {
  picture: async (file: File, figures: Figures | undefined) => SOURCES.kept(await addPicture(file), figures),
  drawing: async (file: File, figures: Figures | undefined) => {
    const { sha256, filename, wide_mm, tall_mm } = await addDrawing(file);
    const [short, long] = [Math.min(wide_mm, tall_mm), Math.max(wide_mm, tall_mm)];
    // A drawing is sized by its width.
    return artOf({ entry: "drawing", drawing: { sha256, filename } }, suitableSide(figures, short, long) * (wide_mm / long));
  },
  kept: ({ sha256, filename, rows, cols }: Kept, figures: Figures | undefined) =>
    artOf({ picture: { sha256, filename } }, suitableSide(figures, Math.min(rows, cols), Math.max(rows, cols))),
  motif: ({ picture, name }: Motif, figures: Figures | undefined) => SOURCES.kept({ ...picture, filename: `${name}.png` }, figures),
  text: (figures: Figures | undefined) => artOf({ entry: "text" }, suitableSide(figures, 1, 5)),
  outline: (figures: Figures | undefined) => artOf({ entry: "outline" }, suitableSide(figures)),
};

/** A texture all over the body but its underside, after what is there. */
export function covered({ sha256, filename }: Schemas["PictureOut"], figures: Figures | undefined): { id: string; next: (recipe: Recipe) => Recipe } {
  const id = newId("texture");
  const size = figures ? Math.min(...figures.mesh.size_mm) : 40;
  const low = figures?.mesh.low_mm[2] ?? 0;
  const tile = { mm: Number(Math.max(2, size / 2).toPrecision(2)), text: null };
  const one = { ...FRESH.texture, id, file: { sha256, filename }, tile, where: "beyond", beyond: { mm: Number((low + 0.5).toFixed(2)), text: null } };
  return { id, next: change(decorations, (now) => [...now, one as Texture]) };
}

/** What is laid on another body is laid on this one, with all its numbers. */
export function again(one: Decoration, figures: Figures | undefined): { id: string; next: (recipe: Recipe) => Recipe } {
  const id = newId("decoration");
  return { id, next: change(decorations, (now) => [...now, { ...one, ...suitablePlace(figures), id }]) };
}

/** Art laid on the body, after what is there. */
export function laid(art: Decoration["art"], figures: Figures | undefined): { id: string; next: (recipe: Recipe) => Recipe } {
  const id = newId("decoration");
  const one = { ...FRESH.decoration, ...suitablePlace(figures), id, art };
  return { id, next: change(decorations, (now) => [...now, one as Decoration]) };
}
