/** Once what is being done is on the screen, and menus have given the focus back. */
export function afterwards(act: () => void) {
  requestAnimationFrame(() => requestAnimationFrame(act));
}

/** Where what had the focus is gone: the first of these that is there gets it. */
export function focusAfterwards(...places: (string | undefined)[]) {
  afterwards(() => {
    if (document.activeElement && document.activeElement !== document.body) return;
    const found = places.map((place) => (place ? document.querySelector<HTMLElement>(place) : null));
    found.find((element) => element !== null)?.focus();
  });
}

/** A selector for something by its label. */
export const labelled = (label: string) => `[aria-label="${CSS.escape(label)}"]`;
