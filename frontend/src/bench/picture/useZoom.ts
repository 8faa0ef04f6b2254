import { type RefObject, useEffect, useRef } from "react";
import type { Spot } from "./frame";
import { usePieceStore, WHOLE } from "../pieceStore";

/** Room around the picture for the rulers and the bars, px. */
export const MARGIN = { left: 44, right: 22, top: 76, bottom: 60 };
const MOST_ZOOM = 64;

interface Room {
  width: number;
  height: number;
}

export type Zoom = ReturnType<typeof useZoom>;

/** Zoom in and out about a spot of the view; the wheel does it about the pointer. */
export function useZoom(host: RefObject<HTMLElement | null>, room: Room) {
  const { sight, setSight } = usePieceStore();
  const zoomAt = (factor: number, [x, y]: Spot) => {
    const zoom = Math.min(MOST_ZOOM, Math.max(1, sight.zoom * factor));
    const real = zoom / sight.zoom;
    if (zoom === 1) return setSight(WHOLE);
    const middleX = MARGIN.left + (room.width - MARGIN.left - MARGIN.right) / 2;
    const middleY = MARGIN.top + (room.height - MARGIN.top - MARGIN.bottom) / 2;
    setSight({
      zoom,
      x: (sight.x - (x - middleX)) * real + (x - middleX),
      y: (sight.y - (y - middleY)) * real + (y - middleY),
    });
  };
  // React listens to the wheel passively; zooming must keep the page still.
  const newest = useRef(zoomAt);
  useEffect(() => {
    newest.current = zoomAt;
  });
  useEffect(() => {
    const element = host.current;
    if (!element) return;
    const hear = (event: WheelEvent) => {
      event.preventDefault();
      const box = element.getBoundingClientRect();
      newest.current(Math.exp(-event.deltaY * 0.0016), [event.clientX - box.left, event.clientY - box.top]);
    };
    element.addEventListener("wheel", hear, { passive: false });
    return () => element.removeEventListener("wheel", hear);
  }, [host]);
  const about = (factor: number) => zoomAt(factor, [room.width / 2, room.height / 2]);
  return { closer: () => about(1.5), further: () => about(1 / 1.5), whole: () => setSight(WHOLE) };
}
