import { useEffect } from "react";
import { create } from "zustand";
import { detailOf, type ErrorDetail } from "../api/client";
import { passing } from "./passing";

/** Something on the screen that could not be brought up to date. */
export interface Old {
  what: string;
  why: ErrorDetail;
  again: () => void;
}

/** What is mended sooner than this, as by a refused number going back, is not worth a word. */
const PATIENCE_MS = 600;
/** What was under way when all was asked for again may still fail so much later. */
const UNDER_WAY_MS = 2000;

interface Olds {
  list: Old[];
}

/** All that is shown as it was before, for the one place that says so. */
export const useOlds = create<Olds>(() => ({ list: [] }));

/** What failed, said already or not. */
const failing = new Set<Old>();
let askedAgain = -Infinity;

/** Ask again for all that failed for a reason that passes, and what is about to. */
export function askAgain() {
  askedAgain = performance.now();
  for (const { why, again } of [...failing]) if (passing(why)) again();
}

/** Something failed; what is returned says that this is over. */
export function failed(old: Old): () => void {
  failing.add(old);
  const timers = [setTimeout(() => useOlds.setState(({ list }) => ({ list: [...list, old] })), PATIENCE_MS)];
  if (passing(old.why) && performance.now() < askedAgain + UNDER_WAY_MS) timers.push(setTimeout(old.again, UNDER_WAY_MS));
  return () => {
    timers.forEach(clearTimeout);
    failing.delete(old);
    useOlds.setState(({ list }) => ({ list: list.filter((known) => known !== old) }));
  };
}

/** Say that a part of the screen is old, and why, for as long as that is so. */
export function useOld(what: string, why: ErrorDetail | undefined, again: () => void) {
  useEffect(
    () => (why ? failed({ what, why, again }) : undefined),
    // A new way to ask again is no news.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [what, why],
  );
}

/** The same for what a query brings. */
export function useOldQuery(what: string, query: { isError: boolean; error: unknown; refetch: () => unknown }) {
  useOld(what, query.isError ? detailOf(query.error) : undefined, () => void query.refetch());
}
