import { useCallback, useRef, useState } from "react";
import { type Recipe, Refusal } from "../api/client";
import { useNewest } from "../shared/useNewest";

/** A draft that takes longer than this can be called off. */
const LONG_MS = 2000;
const CALLED_OFF = { kind: "cancelled", what: "draft", why: "it was called off", remedy: "Draw it again" };

interface Told {
  long: (on: boolean) => void;
  off: (on: boolean) => void;
}

/** An answer that is waited for, until `mine` calls it off. */
export async function unlessCalledOff<A>(ask: (signal: AbortSignal) => Promise<A>, mine: AbortController, gone: AbortSignal, told: Told): Promise<A> {
  told.off(false);
  const timer = setTimeout(() => told.long(true), LONG_MS);
  try {
    return await ask(AbortSignal.any([gone, mine.signal]));
  } catch (error) {
    if (!mine.signal.aborted) throw error;
    told.off(true);
    throw new Refusal(CALLED_OFF);
  } finally {
    clearTimeout(timer);
    told.long(false);
  }
}

/** Drafts, one at a time, always for the newest recipe; one that takes long can be called off. */
export function useDraft<A>(recipe: Recipe | undefined, ask: (recipe: Recipe, signal: AbortSignal) => Promise<A>, take: (draft: A) => void) {
  const [long, setLong] = useState(false);
  const [off, setOff] = useState(false);
  const own = useRef<AbortController>(undefined);
  const { problem, again } = useNewest(recipe, {
    ask: (wanted, gone) => {
      own.current = new AbortController();
      return unlessCalledOff((signal) => ask(wanted, signal), own.current, gone, { long: setLong, off: setOff });
    },
    take,
  });
  const callOff = useCallback(() => own.current?.abort(), []);
  return { problem: problem?.kind === CALLED_OFF.kind ? undefined : problem, again, long, off, callOff };
}
