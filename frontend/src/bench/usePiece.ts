import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, detailOf, type ErrorDetail, type Piece, type Recipe, takeAs } from "../api/client";
import { showError } from "../shared/notices";
import { useHeld } from "./useHeld";

/** How long a moving control must rest before its state is kept. */
const REST_MS = 450;

export type SaveState = "saved" | "saving" | "unsaved";

export interface OpenPiece {
  piece: Piece | undefined;
  loading: boolean;
  failure: unknown;
  /** The recipe as edited, ahead of the saved one while a control moves. */
  recipe: Recipe | undefined;
  saveState: SaveState;
  /** Why the last change could not be kept; it stays in the fields. */
  problem: ErrorDetail | undefined;
  edit: (change: (recipe: Recipe) => Recipe, label: string, resting: boolean) => void;
  step: (way: "undo" | "redo") => void;
  rename: (name: string) => void;
  /** Resolves once everything edited is kept. */
  settle: () => Promise<boolean>;
}

/** One piece: loaded, edited ahead of the server, kept when it rests, undone and redone. */
export function usePiece(pieceId: string): OpenPiece {
  const queries = useQueryClient();
  const key = ["piece", pieceId];
  const query = useQuery({
    queryKey: key,
    queryFn: () => takeAs<Piece>(api.GET("/api/pieces/{piece_id}", { params: { path: { piece_id: pieceId } } })),
  });
  const [edited, setEdited] = useState<{ recipe: Recipe; label: string }>();
  const [saveState, setSaveState] = useState<SaveState>("saved");
  const [problem, setProblem] = useState<ErrorDetail>();
  const pending = useRef<{ recipe: Recipe; label: string }>(undefined);
  const timer = useRef<number>(undefined);
  const saving = useRef<Promise<boolean>>(Promise.resolve(true));
  const held = useHeld();
  const piece = query.data;
  const current = useRef(piece);
  useEffect(() => {
    current.current = piece;
  }, [piece]);

  const keep = useCallback(
    (fresh: Piece) => {
      current.current = fresh;
      queries.setQueryData(["piece", pieceId], fresh);
      void queries.invalidateQueries({ queryKey: ["pieces"] });
    },
    [queries, pieceId],
  );

  const flush = useCallback((): Promise<boolean> => {
    window.clearTimeout(timer.current);
    saving.current = saving.current.then(async () => {
      const change = pending.current;
      const base = current.current;
      if (!change || !base) return true;
      setSaveState("saving");
      try {
        const fresh = await takeAs<Piece>(
          api.PUT("/api/pieces/{piece_id}/recipe", {
            params: { path: { piece_id: pieceId } },
            body: { recipe: change.recipe, label: change.label, base: base.revision },
            // Reaches the server even when the tab is being closed; browsers allow that
            // only to small bodies, and many strokes make a large one.
            keepalive: JSON.stringify(change.recipe).length < 50_000,
          }),
        );
        keep(fresh);
        setProblem(undefined);
        if (pending.current === change) {
          pending.current = undefined;
          setEdited(undefined);
          setSaveState("saved");
        }
        return true;
      } catch (error) {
        setProblem(detailOf(error));
        setSaveState("unsaved");
        return false;
      }
    });
    return saving.current;
  }, [keep, pieceId]);

  const edit = useCallback(
    (change: (recipe: Recipe) => Recipe, label: string, resting: boolean) => {
      const before = pending.current?.recipe ?? current.current?.recipe;
      if (!before) return;
      // Another number than the one still resting: that one becomes a step of its own.
      const other = pending.current && pending.current.label !== label;
      if (other) void flush();
      pending.current = { recipe: change(before), label };
      setEdited(pending.current);
      setSaveState("unsaved");
      window.clearTimeout(timer.current);
      // However slowly a held control moves, it is one step.
      const rest = () => {
        if (held.current && !resting) timer.current = window.setTimeout(rest, REST_MS);
        else void flush();
      };
      timer.current = window.setTimeout(rest, resting ? 0 : REST_MS);
    },
    [flush, held],
  );

  const step = useCallback(
    (way: "undo" | "redo") => {
      void (async () => {
        if (way === "undo" && pending.current && !(await flush())) {
          // What could not be kept is what is undone.
          pending.current = undefined;
          setEdited(undefined);
          setProblem(undefined);
          setSaveState("saved");
          return;
        }
        try {
          const path = { params: { path: { piece_id: pieceId } } };
          keep(
            await takeAs<Piece>(
              way === "undo"
                ? api.POST("/api/pieces/{piece_id}/undo", path)
                : api.POST("/api/pieces/{piece_id}/redo", path),
            ),
          );
        } catch (error) {
          showError(error);
        }
      })();
    },
    [flush, keep, pieceId],
  );

  const rename = useCallback(
    (name: string) => {
      takeAs<Piece>(
        api.PATCH("/api/pieces/{piece_id}", { params: { path: { piece_id: pieceId } }, body: { name } }),
      ).then(keep, showError);
    },
    [keep, pieceId],
  );

  useEffect(() => {
    const leave = () => void flush();
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      void flush();
    };
  }, [flush]);

  return {
    piece,
    loading: query.isPending,
    failure: query.error,
    recipe: edited?.recipe ?? piece?.recipe,
    saveState,
    problem,
    edit,
    step,
    rename,
    settle: flush,
  };
}
