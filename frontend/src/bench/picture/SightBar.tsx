import type { Corrected } from "../../api/client";
import { mm, size } from "../../shared/format";
import { usePieceStore } from "../pieceStore";
import type { Zoom } from "./useZoom";

/** How large the picture is, and how much of it is seen. */
export function SightBar({ corrected, zoom }: { corrected: Corrected; zoom: Zoom }) {
  const sight = usePieceStore((state) => state.sight);
  const seen = sight.zoom === 1 ? "whole" : `× ${mm(sight.zoom, 1)}`;
  return (
    <div className="view-bar low">
      <span className="mono quiet me-auto view-size">
        {size(corrected.wide_mm, corrected.tall_mm)}, {mm((corrected.cols - 1) / corrected.wide_mm, 1)} px per mm
        {corrected.transparent && `, ${mm((1 - corrected.kept) * 100, 0)} % dropped`}
      </span>
      <button type="button" className="chip" aria-label="Zoom out" onClick={zoom.further}>
        −
      </button>
      <button type="button" className="chip mono" aria-label={`${seen}, see all of the picture`} onClick={zoom.whole}>
        {seen}
      </button>
      <button type="button" className="chip" aria-label="Zoom in" onClick={zoom.closer}>
        +
      </button>
    </div>
  );
}
