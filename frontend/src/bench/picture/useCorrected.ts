import { useState } from "react";
import { api, type Corrected, postForBlob, type Recipe, takeAs } from "../../api/client";
import { useOld } from "../../shared/old";
import { useNewest } from "../../shared/useNewest";
import { art, hasHeights, pictured } from "../at";

export interface Wanted {
  recipe: Recipe;
  /** Only so many corrections of the list. */
  upto: number | null;
  quality: "screen" | "full";
  before: boolean;
}

export interface Shown {
  wanted: Wanted;
  corrected: Corrected;
  pixels: ImageBitmap;
  /** Opaque where something is dropped. */
  dropped: ImageBitmap | undefined;
  before: ImageBitmap | undefined;
}

const LONGEST = { screen: 1100, full: 4096 };

async function picture(wanted: Wanted, part: "pixels" | "dropped" | "before") {
  const { recipe, upto, quality } = wanted;
  const body = { recipe, upto, quality, part, longest: LONGEST[quality] };
  return createImageBitmap(await postForBlob("/api/corrected.png", body));
}

async function fetchShown(wanted: Wanted): Promise<Shown> {
  const { recipe, upto, quality, before } = wanted;
  const [corrected, pixels] = await Promise.all([
    takeAs<Corrected>(api.POST("/api/corrected", { body: { recipe, upto, quality } })),
    picture(wanted, "pixels"),
  ]);
  const dropped = corrected.transparent ? await picture(wanted, "dropped") : undefined;
  const first = before ? await picture(wanted, "before") : undefined;
  return { wanted, corrected, pixels, dropped, before: first };
}

/** What of a recipe the corrected picture depends on. */
const pixelsKey = (recipe: Recipe) => JSON.stringify(pictured.read(recipe));

/** What of a recipe the flat heights depend on. */
export const pictureKey = (recipe: Recipe) => JSON.stringify(hasHeights(recipe) ? art.read(recipe) : [pictured.read(recipe), recipe.begins]);

const same = (a: Wanted, b: Wanted) => a.upto === b.upto && a.quality === b.quality && a.before === b.before && pixelsKey(a.recipe) === pixelsKey(b.recipe);

/** The corrected picture: one request at a time, always for the newest wish. */
export function useCorrected(wanted: Wanted): { shown?: Shown; busy: boolean } {
  const [shown, setShown] = useState<Shown>();
  const [busy, setBusy] = useState(false);
  const { problem, again } = useNewest(wanted, { ask: fetchShown, take: setShown, same, busy: setBusy });
  useOld("the picture", problem, again);
  return { shown, busy };
}
