import { useEffect } from "react";

/**
 * Keys to actions. A key is written as `z`, `ctrl+z`, `ctrl+shift+z` or `shift+Digit1`;
 * while a text is typed only those with ctrl are heard.
 */
export function useShortcuts(actions: Record<string, () => void>) {
  useEffect(() => {
    function hear(event: KeyboardEvent) {
      const target = event.target as HTMLElement;
      const typing = /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) && !target.matches("[type=range]");
      const ctrl = event.ctrlKey || event.metaKey;
      if (event.altKey || (typing && !ctrl)) return;
      const prefix = `${ctrl ? "ctrl+" : ""}${event.shiftKey ? "shift+" : ""}`;
      const action =
        actions[`${prefix}${event.code}`] ??
        actions[`${prefix}${event.key.toLowerCase()}`] ??
        (ctrl ? undefined : actions[event.key]);
      if (!action) return;
      event.preventDefault();
      action();
    }
    window.addEventListener("keydown", hear);
    return () => window.removeEventListener("keydown", hear);
  }, [actions]);
}
