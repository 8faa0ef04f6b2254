import type { Figures, Recipe } from "../../api/client";
import { coloured } from "./coloured";
import { deviation } from "./deviation";
import { lines } from "./lines";
import { difference, lit } from "./lit";
import type { Look } from "./look";
import { stretch } from "./stretch";
import { surface } from "./surface";
import { walls } from "./walls";

/** In the order of their chips. */
export const LOOKS: Look[] = [surface, lines, coloured, deviation, walls, stretch, lit, difference];

export const lookOf = (id: string): Look => LOOKS.find((look) => look.id === id) ?? surface;

/** What turning a look on or off leads to: off, to the one that it goes with, or to the surface. */
export const toggled = (now: string, { id, beside }: Look): string => (now === id ? (beside ?? surface.id) : id);

export const offered = ({ id, beside, suits }: Look, now: string, recipe: Recipe, figures: Figures | undefined) =>
  (!beside || now === id || now === beside) && (!suits || suits(recipe, figures));
