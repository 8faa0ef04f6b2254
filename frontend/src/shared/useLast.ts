import { useEffect, useState } from "react";

/** The value, or the last one there was: what fails now leaves what was seen before. */
export function useLast<T>(value: T | undefined): T | undefined {
  const [last, setLast] = useState(value);
  useEffect(() => {
    if (value !== undefined) setLast(value);
  }, [value]);
  return value ?? last;
}
