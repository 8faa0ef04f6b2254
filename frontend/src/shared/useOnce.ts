import { useCallback, useEffect, useRef } from "react";

/** A value that is asked for now and given once it is settled. */
export function useOnce<V>(value: V, settled: boolean): () => Promise<V> {
  const waiting = useRef<((value: V) => void)[]>([]);
  const now = useRef({ value, settled });
  useEffect(() => {
    now.current = { value, settled };
    if (!settled) return;
    for (const give of waiting.current.splice(0)) give(value);
  }, [value, settled]);
  return useCallback(() => (now.current.settled ? Promise.resolve(now.current.value) : new Promise((give) => waiting.current.push(give))), []);
}
