import { lines } from "./lines";
import { difference, lit } from "./lit";
import type { Look } from "./look";
import { surface } from "./surface";

/** In the order of their chips. */
export const LOOKS: Look[] = [surface, lines, lit, difference];

export const lookOf = (id: string): Look => LOOKS.find((look) => look.id === id) ?? surface;

/** What turning a look on or off leads to: off, to the one that it goes with, or to the surface. */
export const toggled = (now: string, { id, beside }: Look): string => (now === id ? (beside ?? surface.id) : id);

export const offered = ({ id, beside }: Look, now: string) => !beside || now === id || now === beside;
