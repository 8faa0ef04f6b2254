import type { Recipe } from "../../api/client";
import { body } from "./body";
import { decorations } from "./decorations";
import { figure } from "./figure";
import { finish } from "./finish";
import { form } from "./form";
import { heights } from "./heights";
import { picture } from "./picture";
import { madeProof, proof } from "./proof";
import type { Stop } from "./stop";

const artPicture: Stop = { ...picture, ofArt: true };
const artHeights: Stop = { ...heights, ofArt: true };

/** The trail of a piece, by what it begins with. */
const STOPS: Record<Recipe["begins"]["kind"], Stop[]> = {
  relief: [picture, heights, form, finish, proof],
  body: [body, decorations, finish, madeProof],
  figure: [picture, figure, finish, madeProof],
};

const DECORATED: Stop[] = [body, decorations, artPicture, artHeights, finish, madeProof];

export const stopsOf = (recipe: Recipe): Stop[] =>
  recipe.begins.kind === "body" && recipe.begins.decorations.some((one) => one.kind === "decoration" && one.art.picture)
    ? DECORATED
    : STOPS[recipe.begins.kind];

/** The stop of that id, or the first. */
export function stopOf(recipe: Recipe, id: string): Stop {
  const stops = stopsOf(recipe);
  return stops.find((stop) => stop.id === id) ?? stops[0];
}
