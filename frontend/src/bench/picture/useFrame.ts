import { useMemo } from "react";
import type { Corrected } from "../../api/client";
import { usePieceStore } from "../pieceStore";
import type { Frame } from "./frame";
import { MARGIN } from "./useZoom";

/** Where the picture lies on the screen, once its size and the room for it are known. */
export function useFrame(corrected: Corrected | undefined, room: { width: number; height: number }): Frame | undefined {
  const sight = usePieceStore((state) => state.sight);
  return useMemo(() => {
    if (!corrected || room.width === 0) return undefined;
    const spaceX = room.width - MARGIN.left - MARGIN.right;
    const spaceY = room.height - MARGIN.top - MARGIN.bottom;
    const fit = Math.max(0.01, Math.min(spaceX / corrected.wide_mm, spaceY / corrected.tall_mm));
    const width = corrected.wide_mm * fit * sight.zoom;
    const height = corrected.tall_mm * fit * sight.zoom;
    return {
      left: MARGIN.left + (spaceX - width) / 2 + sight.x,
      top: MARGIN.top + (spaceY - height) / 2 + sight.y,
      width,
      height,
      wideMm: corrected.wide_mm,
      tallMm: corrected.tall_mm,
      cols: corrected.cols,
      rows: corrected.rows,
      place: corrected.place,
    };
  }, [corrected, room, sight]);
}
