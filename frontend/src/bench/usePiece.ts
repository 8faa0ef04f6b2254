import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useSyncExternalStore } from "react";
import type { Piece, Recipe } from "../api/client";
import { handedOn } from "../shared/handOn";
import { showRefused, useNotices } from "../shared/notices";
import { dropRefused, takeTyped, useTypings } from "../shared/typings";
import { keptInWindow } from "./keeping/keptInWindow";
import { type Keeping, PieceKeeper } from "./keeping/PieceKeeper";
import { MOST_LEAVING, pieceServer } from "./keeping/pieceServer";
import { isHeld, useHeld } from "./useHeld";
import { askAnew } from "../shared/askAnew";

/** How often the server is asked whether another window changed the piece. */
const POLL_MS = 3000;

export interface OpenPiece extends Keeping {
  loading: boolean;
  edit: (change: (recipe: Recipe) => Recipe, label: string, resting: boolean) => void;
  step: (way: "undo" | "redo", steps?: number) => void;
  rename: (name: string) => void;
  /** Takes what is typed and waits until everything is kept; says so where that cannot be. */
  settle: () => Promise<boolean>;
  again: () => void;
  takeTheirs: () => void;
  keepMine: () => void;
  putBack: () => void;
}

/** They outlive the bench: what it leaves behind goes on to the server. */
const keepers = new Map<string, PieceKeeper>();

// Windows of one browser tell each other at once; others are heard of by asking.
const windows = new BroadcastChannel("nebrel pieces");

function keeperOf(pieceId: string, queries: QueryClient): PieceKeeper {
  const known = keepers.get(pieceId);
  if (known) return known;
  for (const [id, keeper] of keepers) if (keeper.idle) keepers.delete(id);
  let last = "";
  const made = new PieceKeeper({
    server: pieceServer(pieceId),
    kept: keptInWindow(pieceId),
    held: isHeld,
    onPiece: (piece: Piece) => {
      void askAnew(queries, "pieces");
      const news = `${piece.state} ${piece.name}`;
      if (last && last !== news) windows.postMessage(pieceId);
      last = news;
    },
    onRefused: showRefused,
    onSay: (title, text) => useNotices.getState().show({ tone: "plain", title, text }),
  });
  keepers.set(pieceId, made);
  return made;
}

/** One piece: edited ahead of the server, kept when it rests, undone and redone. */
export function usePiece(pieceId: string): OpenPiece {
  const queries = useQueryClient();
  const keeper = useMemo(() => keeperOf(pieceId, queries), [pieceId, queries]);
  const keeping = useSyncExternalStore(keeper.subscribe, keeper.snapshot);
  useHeld();

  useEffect(() => {
    void keeper.load();
    const ask = () => void (document.visibilityState === "visible" && keeper.poll());
    const hear = ({ data }: MessageEvent) => void (data === pieceId && keeper.poll());
    const timer = window.setInterval(ask, POLL_MS);
    windows.addEventListener("message", hear);
    window.addEventListener("focus", ask);
    window.addEventListener("online", ask);
    // What is typed in plain millimetres is understood before the window is gone.
    const leave = () => void takeTyped().then(keeper.leave);
    window.addEventListener("pagehide", leave);
    return () => {
      window.clearInterval(timer);
      windows.removeEventListener("message", hear);
      window.removeEventListener("focus", ask);
      window.removeEventListener("online", ask);
      window.removeEventListener("pagehide", leave);
      void keeper.settle();
    };
  }, [keeper, pieceId]);

  // A change that would not get out of a closing window asks first.
  useEffect(() => {
    const ask = (event: BeforeUnloadEvent) => {
      const { pending, save, recipe } = keeper.snapshot();
      const stuck = save === "away" || save === "overtaken" || JSON.stringify(recipe).length > MOST_LEAVING;
      if (pending && stuck) event.preventDefault();
    };
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [keeper]);

  const acts = useMemo(() => actsOn(keeper), [keeper]);
  return { ...keeping, loading: !keeping.piece && !keeping.failure, ...acts };
}

type Acts = Omit<OpenPiece, keyof Keeping | "loading">;

function actsOn(keeper: PieceKeeper): Acts {
  async function step(way: "undo" | "redo", steps = 1) {
    // A number that was refused is what is taken back first.
    if (way === "undo" && dropRefused()) return;
    await takeTyped();
    if (way === "undo" && dropRefused()) return;
    keeper.step(way, steps);
  }
  async function settle() {
    await takeTyped();
    const kept = await keeper.settle();
    const { refused } = useTypings.getState();
    if (kept && refused.length === 0) return true;
    useNotices.getState().show({ tone: "error", title: "Not done", text: whyNot(keeper, kept) });
    return false;
  }
  return {
    edit: (change, label, resting) => keeper.edit(change, label, resting, handedOn()),
    step: (way, steps) => void step(way, steps),
    rename: keeper.rename,
    settle,
    again: () => void keeper.again(),
    takeTheirs: () => void keeper.takeTheirs(),
    keepMine: () => void keeper.keepMine(),
    putBack: () => void keeper.putBack(),
  };
}

/** Why what is shown is not what would be written. */
function whyNot(keeper: PieceKeeper, kept: boolean): string {
  const { save, trouble } = keeper.snapshot();
  if (save === "overtaken") return "The piece was changed in another window. Choose first which change is kept.";
  if (!kept) return `The last change is not saved yet: ${trouble?.why ?? "the piece is gone"}.`;
  const places = useTypings.getState().refused.map(({ label }) => `“${label}”`);
  return `What is typed at ${places.join(", ")} does not work. Correct it, or undo it.`;
}
