import { useEffect, useRef } from "react";

/** Inputs whose keys are not text: shortcuts are heard there. */
const NO_TEXT = "[type=range], [type=checkbox], [type=radio], [type=button], [type=file]";

/** Whether a key pressed there writes or chooses something. */
export function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target === pointedAt) return false;
  return target.isContentEditable || (target.matches("input, textarea, select") && !target.matches(NO_TEXT));
}

// A list that was chosen from with the mouse keeps the focus, and nobody means its letters then.
let pointedAt: EventTarget | null = null;
globalThis.addEventListener(
  "pointerdown",
  ({ target }) => {
    pointedAt = target instanceof HTMLSelectElement ? target : null;
  },
  true,
);

const DIALOG = "[role=dialog]";
const MENU = ".dropdown-menu.show";

// What is open is read before anything hears the key: what closes on Esc is gone afterwards.
let dialogWasOpen = false;
let menuWasOpen = false;
globalThis.addEventListener(
  "keydown",
  () => {
    dialogWasOpen = document.querySelector(DIALOG) !== null;
    menuWasOpen = document.querySelector(MENU) !== null;
  },
  true,
);

/** Whether a dialog or a menu has the keys for itself. */
export const keysAreTaken = () => dialogWasOpen || menuWasOpen;

/**
 * Keys to actions. A key is written as `z`, `ctrl+z`, `ctrl+shift+z` or `shift+Digit1`;
 * while a text is typed only those with ctrl are heard, and behind a dialog none, unless the
 * actions belong to the dialog.
 */
export function useShortcuts(actions: Record<string, () => void>, inDialogs = false) {
  const newest = useRef(actions);
  useEffect(() => {
    newest.current = actions;
  });
  useEffect(() => {
    function hear(event: KeyboardEvent) {
      const ctrl = event.ctrlKey || event.metaKey;
      if (event.defaultPrevented || event.altKey || (isTyping(event.target) && !ctrl)) return;
      if (inDialogs ? menuWasOpen : keysAreTaken()) return;
      const prefix = `${ctrl ? "ctrl+" : ""}${event.shiftKey ? "shift+" : ""}`;
      const found = newest.current;
      const action = found[`${prefix}${event.code}`] ?? found[`${prefix}${event.key.toLowerCase()}`] ?? (ctrl ? undefined : found[event.key]);
      if (!action) return;
      event.preventDefault();
      action();
    }
    window.addEventListener("keydown", hear);
    return () => window.removeEventListener("keydown", hear);
  }, [inDialogs]);
}
