import { useSyncExternalStore } from "react";

// Where views, strip and panel do not fit beside each other: a small window, or much zoom.
const query = window.matchMedia("(max-width: 899px), (max-height: 559px)");

const subscribe = (changed: () => void) => {
  query.addEventListener("change", changed);
  return () => query.removeEventListener("change", changed);
};

/** Whether the window is so small that the parts of the bench take turns. */
export const useSmall = () => useSyncExternalStore(subscribe, () => query.matches);
