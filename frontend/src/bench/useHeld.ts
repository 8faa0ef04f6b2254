import { type RefObject, useEffect, useRef } from "react";

/** Whether a pointer button or a key is held down anywhere: what moves then is one gesture. */
export function useHeld(): RefObject<boolean> {
  const held = useRef(false);
  useEffect(() => {
    const down = () => {
      held.current = true;
    };
    const up = (event: Event) => {
      // A field that loses the focus says blur too; only the window's own counts.
      if (event.type !== "blur" || event.target === window) held.current = false;
    };
    const pairs = [
      ["pointerdown", down],
      ["keydown", down],
      ["pointerup", up],
      ["pointercancel", up],
      ["keyup", up],
      ["blur", up],
    ] as const;
    for (const [name, hear] of pairs) window.addEventListener(name, hear, true);
    return () => {
      for (const [name, hear] of pairs) window.removeEventListener(name, hear, true);
    };
  }, []);
  return held;
}
