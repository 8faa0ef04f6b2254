import type { Entry, Recipe, Tones } from "../../api/client";
import { FRESH, newId } from "../../api/fresh";
import { art, buildUp, change, corrections, put, tones } from "../at";
import { same } from "../keeping/merge";

/** What a piece that just arrived may be set up for. */
export interface Start {
  name: string;
  purpose: string;
  /** The recipe with good numbers for it. */
  begin: (recipe: Recipe) => Recipe;
}

const entry = (kind: Entry["kind"], part: object) => ({ ...FRESH.entries[kind], ...part, id: newId("entry") }) as unknown as Entry;
const length = (mm: number) => ({ mm, text: null });

/** In the order they are offered. */
export const STARTS: Start[] = [
  {
    name: "light panel",
    purpose: "dark tones thick, white as thin as light needs it, with a rim",
    begin: (recipe) => {
      const thin = put(art, { backing: length(0.8) })(recipe);
      const lit = put(tones, { raised: "dark", mapping: "light", depth: length(2.4) })(thin);
      return change(buildUp, (now) => [...now, entry("frame", { name: "Rim", wide: length(3), height: length(2.4) })])(lit);
    },
  },
  {
    name: "cut-out",
    purpose: "the dark shape alone, 3 mm thick, its upper edge broken",
    begin: (recipe) => {
      const bare = put(art, { backing: length(0) })(put(tones, { enabled: false })(recipe));
      const shape = entry("traced", { height: length(3), profile: { ...FRESH.profile, kind: "chamfer", reach: length(0.4) } });
      return change(buildUp, (now) => [...now, shape])(bare);
    },
  },
];

/** Whether nothing of a recipe was set up yet but its size. */
export function isUntouched(recipe: Recipe): boolean {
  if (corrections.read(recipe).length > 0 || buildUp.read(recipe).length !== 1) return false;
  const own = tones.read(recipe) as Tones;
  const plain = (step: object) => ({ ...step, id: "", name: "" });
  return own !== undefined && same(plain(own), plain(FRESH.entries.picture));
}
