import { api, detailOf, type Piece, take, takeAs } from "../../api/client";
import type { Server } from "./PieceKeeper";

/** Browsers let only small bodies out of a window that is being closed. */
export const MOST_LEAVING = 50_000;

/** The server, as the keeper of one piece asks it. */
export function pieceServer(pieceId: string): Server {
  const path = { path: { piece_id: pieceId } };
  return {
    get: () => takeAs<Piece>(api.GET("/api/pieces/{piece_id}", { params: path })),
    state: () => take(api.GET("/api/pieces/{piece_id}/state", { params: path })),
    change: (body, leaving) =>
      takeAs<Piece>(
        api.PUT("/api/pieces/{piece_id}/recipe", {
          params: path,
          body,
          keepalive: leaving && JSON.stringify(body).length < MOST_LEAVING,
        }),
      ),
    step: (way, state, steps) => {
      const params = { ...path, query: { state, steps } };
      return takeAs<Piece>(way === "undo" ? api.POST("/api/pieces/{piece_id}/undo", { params }) : api.POST("/api/pieces/{piece_id}/redo", { params }));
    },
    rename: (name) => takeAs<Piece>(api.PATCH("/api/pieces/{piece_id}", { params: path, body: { name } })),
    restore: () => take(api.POST("/api/pieces/{piece_id}/restore", { params: path })),
    why: detailOf,
  };
}
