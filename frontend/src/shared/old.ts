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

interface Olds {
  list: Old[];
}

/** All that is shown as it was before, for the one place that says so. */
export const useOlds = create<Olds>(() => ({ list: [] }));

/** Ask again for all that failed for a reason that passes. */
export function askAgain() {
  for (const { why, again } of useOlds.getState().list) if (passing(why)) again();
}

/** Say that a part of the screen is old, and why, for as long as that is so. */
export function useOld(what: string, why: ErrorDetail | undefined, again: () => void) {
  useEffect(() => {
    if (!why) return;
    const old = { what, why, again };
    const timer = setTimeout(() => useOlds.setState(({ list }) => ({ list: [...list, old] })), PATIENCE_MS);
    return () => {
      clearTimeout(timer);
      useOlds.setState(({ list }) => ({ list: list.filter((known) => known !== old) }));
    };
    // A new way to ask again is no news.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [what, why]);
}

/** The same for what a query brings. */
export function useOldQuery(what: string, query: { isError: boolean; error: unknown; refetch: () => unknown }) {
  useOld(what, query.isError ? detailOf(query.error) : undefined, () => void query.refetch());
}
