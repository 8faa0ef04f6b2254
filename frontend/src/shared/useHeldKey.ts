import { useEffect } from "react";
import { isTyping, keysAreTaken } from "./useShortcuts";

/** Held down, a key shows something for as long; it is let go when the window is left. */
export function useHeldKey(key: string, hold: (held: boolean) => void) {
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== key || event.ctrlKey || event.metaKey || event.repeat) return;
      if (event.type === "keyup") hold(false);
      else if (!isTyping(event.target) && !keysAreTaken()) hold(true);
    };
    const leave = () => hold(false);
    window.addEventListener("keydown", hear);
    window.addEventListener("keyup", hear);
    window.addEventListener("blur", leave);
    return () => {
      window.removeEventListener("keydown", hear);
      window.removeEventListener("keyup", hear);
      window.removeEventListener("blur", leave);
    };
  }, [key, hold]);
}
