import { useState } from "react";
import { postForBlob, type Recipe } from "../../api/client";
import { showError } from "../../shared/notices";
import { useNewest } from "../../shared/useNewest";

export type Laid = "figure" | "difference";

interface Wanted {
  recipe: Recipe;
  part: Laid;
}

const LONGEST = 1400;

const same = (a: Wanted, b: Wanted) => a.part === b.part && JSON.stringify(a.recipe.begins) === JSON.stringify(b.recipe.begins);

/** A figure as its picture sees it, or where their outlines differ, as large as the picture. */
export function useSeen(recipe: Recipe, resting: boolean, part: Laid | undefined): { seen?: ImageBitmap; busy: boolean } {
  const [found, setFound] = useState<{ of: Laid; bitmap: ImageBitmap }>();
  const [busy, setBusy] = useState(false);
  const wanted = part && resting && recipe.begins.kind === "figure" ? { recipe, part } : undefined;
  useNewest<Wanted, ImageBitmap | undefined>(wanted, {
    ask: async ({ recipe, part }) => {
      try {
        const blob = await postForBlob("/api/figures/seen.png", { recipe, part, longest: LONGEST });
        return await createImageBitmap(blob);
      } catch (error) {
        showError(error);
        return undefined;
      }
    },
    take: (bitmap, { part }) => setFound(bitmap && { of: part, bitmap }),
    same,
    busy: setBusy,
  });
  return { seen: part && found?.of === part ? found.bitmap : undefined, busy: busy && part !== undefined };
}
