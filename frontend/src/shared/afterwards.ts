/** Once what is being done is on the screen, and menus have given the focus back. */
export function afterwards(act: () => void) {
  requestAnimationFrame(() => requestAnimationFrame(act));
}

const MOST_FRAMES = 40;

/** Once what had the focus is gone, as it is within a few frames: the first of these that is there gets it. */
export function focusAfterwards(...places: (string | undefined)[]) {
  let frames = 0;
  const look = () => {
    const free = !document.activeElement || document.activeElement === document.body;
    const found = places.map((place) => (place ? document.querySelector<HTMLElement>(place) : null)).find((element) => element !== null);
    if (free && found) found.focus();
    else if (++frames < MOST_FRAMES) requestAnimationFrame(look);
  };
  afterwards(look);
}

/** A selector for something by its label. */
export const labelled = (label: string) => `[aria-label="${CSS.escape(label)}"]`;
