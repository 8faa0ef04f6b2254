import { api, type Decoration, type Recipe, takeAs } from "../../../api/client";

export type Place = [number, number, number];
export type FadeStroke = Decoration["fade_strokes"][number];
export type Part = Decoration["parts"][number];

/** Which spots of its art lie at places of the piece, and how large it is. */
export const spotsAt = (recipe: Recipe, decorationId: string, places: Place[]) =>
  takeAs<{ spots: (Part["spot"] | null)[]; size_mm: [number, number] }>(
    api.POST("/api/decorations/spots", { body: { recipe, decoration_id: decorationId, places } }),
  );

/** A stroke over the piece as one over the art; none where it went beside it. */
export async function strokeOver(recipe: Recipe, step: Decoration, places: Place[], wideMm: number): Promise<FadeStroke | undefined> {
  const { spots, size_mm } = await spotsAt(recipe, step.id, places);
  const on = spots.filter((spot) => spot !== null);
  return on.length > 0 ? { spots: on, wide: Math.min(2, wideMm / size_mm[0]) } : undefined;
}

/** What the brush that fades, and pointing at a part, are known by. */
export const fading = (step: Pick<Decoration, "id">) => `${step.id} fades`;
export const parting = (step: Pick<Decoration, "id">) => `${step.id} part`;
