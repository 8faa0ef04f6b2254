import type { Kept, Unsaved } from "./PieceKeeper";

/** What is not saved yet, kept by this window over a reload. */
export function keptInWindow(pieceId: string): Kept {
  const key = `nebrel unsaved ${pieceId}`;
  return {
    load: () => {
      try {
        return (JSON.parse(sessionStorage.getItem(key) ?? "null") as Unsaved | null) ?? undefined;
      } catch {
        return undefined;
      }
    },
    save: (unsaved) => {
      try {
        if (unsaved) sessionStorage.setItem(key, JSON.stringify(unsaved));
        else sessionStorage.removeItem(key);
      } catch {
        // No room, or none allowed: the queue holds it as long as the window is open.
      }
    },
  };
}
