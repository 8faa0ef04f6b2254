import { useEffect, useState } from "react";
import { isHeld } from "./useHeld";

const ENDS = ["pointerup", "pointercancel", "keyup"] as const;

/** A value that does not change under a press: nothing moves away from below the pointer. */
export function useStill<T>(value: T): T {
  const [shown, setShown] = useState(value);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout>;
    // What was pressed is told right after it is let go.
    const later = () => {
      timer = setTimeout(() => setShown(value));
    };
    if (isHeld()) for (const end of ENDS) window.addEventListener(end, later, { capture: true, once: true });
    else later();
    return () => {
      clearTimeout(timer);
      for (const end of ENDS) window.removeEventListener(end, later, true);
    };
  }, [value]);
  return shown;
}
