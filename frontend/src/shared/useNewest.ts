import { useCallback, useEffect, useRef, useState } from "react";
import { detailOf, type ErrorDetail } from "../api/client";

interface Options<Q, A> {
  /** `signal` says that nobody waits for it any more. */
  ask: (question: Q, signal: AbortSignal) => Promise<A>;
  take: (answer: A, question: Q) => void;
  /** Told when it begins and ends to be busy; left out, nothing is drawn anew for that. */
  busy?: (busy: boolean) => void;
  /** Whether two questions have the same answer. */
  same?: (one: Q, other: Q) => boolean;
}

/**
 * One question at a time, always for the newest: what is asked meanwhile waits, and of that only the last is asked.
 *
 * An answer is taken even when something newer is wanted by then, so that the screen follows.
 */
export function useNewest<Q, A>(question: Q | undefined, options: Options<Q, A>) {
  const [problem, setProblem] = useState<ErrorDetail>();
  const newest = useRef(question);
  const asked = useRef<Q>(undefined);
  const working = useRef(false);
  const now = useRef(options);
  const gone = useRef(new AbortController());

  const work = useCallback(() => {
    const wanted = () => {
      const { same = Object.is } = now.current;
      const next = newest.current;
      return next !== undefined && !(asked.current !== undefined && same(asked.current, next));
    };
    if (working.current || !wanted()) return;
    working.current = true;
    now.current.busy?.(true);
    void (async () => {
      while (wanted()) {
        const mine = newest.current as Q;
        asked.current = mine;
        try {
          now.current.take(await now.current.ask(mine, gone.current.signal), mine);
          setProblem(undefined);
        } catch (error) {
          if (gone.current.signal.aborted) return;
          const said = detailOf(error);
          // Whoever calls it off wants what waits behind it as little.
          if (said.kind === "cancelled") asked.current = newest.current;
          // What was refused while something newer waits is of no interest.
          if (!wanted()) setProblem(said);
        }
      }
      working.current = false;
      now.current.busy?.(false);
    })();
  }, []);
  useEffect(() => {
    now.current = options;
    newest.current = question;
    work();
  });
  useEffect(() => {
    // What is shown anew after it was away begins anew.
    if (gone.current.signal.aborted) {
      gone.current = new AbortController();
      working.current = false;
      asked.current = undefined;
      work();
    }
    return () => gone.current.abort();
  }, [work]);
  /** Ask once more, whatever was answered. */
  const again = useCallback(() => {
    asked.current = undefined;
    work();
  }, [work]);
  return { problem, again };
}
