import { useEffect } from "react";

let held = false;

/** Whether a pointer button or a key is held down anywhere: what moves then is one gesture. */
export const isHeld = () => held;

/** Hear what is held for as long as the bench is open. */
export function useHeld() {
  useEffect(() => {
    const down = () => {
      held = true;
    };
    const up = (event: Event) => {
      // A field that loses the focus says blur too; only the window's own counts.
      if (event.type !== "blur" || event.target === window) held = false;
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
      held = false;
      for (const [name, hear] of pairs) window.removeEventListener(name, hear, true);
    };
  }, []);
}
