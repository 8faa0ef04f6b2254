import type { Entry } from "../../../api/client";
import { type Kinds, kindOf, titleOf } from "../kinds";
import type { EntryContext, Placed } from "./entry";
import { drawing } from "./drawing";
import { frame } from "./frame";
import { motif } from "./motif";
import { outline } from "./outline";
import { pattern } from "./pattern";
import { picture } from "./picture";
import { text } from "./text";
import { traced } from "./traced";

/** In the order of the menu. */
export const ENTRIES: Kinds<Entry, EntryContext> = { outline, traced, drawing, text, frame, pattern, motif, picture };

export const entryTitle = (entry: Entry) => titleOf(kindOf(ENTRIES, entry), entry);

/** What the size grip of an entry changes, mm; nothing where it has none. */
export const sizeOf = (entry: Entry) => kindOf(ENTRIES, entry).placing?.size as ((entry: Placed) => number) | undefined;
