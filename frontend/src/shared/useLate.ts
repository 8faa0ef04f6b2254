import { useEffect, useState } from "react";

/** What passes sooner than this is not told. */
const LATE_MS = 300;

/** Whether something has been so for long enough to be told. */
export function useLate(so: boolean): boolean {
  const [late, setLate] = useState(false);
  useEffect(() => {
    if (!so) return;
    const timer = setTimeout(() => setLate(true), LATE_MS);
    return () => {
      clearTimeout(timer);
      setLate(false);
    };
  }, [so]);
  return so && late;
}
