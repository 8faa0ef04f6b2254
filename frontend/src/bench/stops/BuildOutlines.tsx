import { COLOURS } from "../../shared/colours";
import { art, buildUp } from "../at";
import { toScreen } from "../picture/frame";
import { usePieceStore } from "../pieceStore";
import { entryTitle, sizeOf } from "../steps/entries";
import { loopPath } from "../steps/entries/loops";
import { useOutlines } from "../steps/entries/useOutlines";
import type { FiguresOfHeights } from "../../api/client";
import type { UnderProps } from "./stop";

/** The outlines of the build-up in the picture, places that something is said of, and loose parts. */
export function BuildOutlines({ recipe, resting, figures, frame }: UnderProps<FiguresOfHeights>) {
  const { chosen: open, choose } = usePieceStore();
  const chosen = open.entries;
  const outlines = useOutlines(recipe, resting);
  const entries = buildUp.read(recipe);
  const islands = art.read(recipe).islands === "keep" ? (figures?.heights.islands ?? []) : [];
  const remarks = figures?.heights.remarks ?? [];
  return (
    <g>
      {entries.map((entry) => {
        const path = outlines && loopPath(entry, outlines, frame, sizeOf(entry));
        if (!path || !entry.enabled) return null;
        const cut = "rule" in entry && entry.rule === "cut";
        return (
          <path
            key={entry.id}
            className="entry-outline"
            data-entry={entryTitle(entry)}
            d={path}
            fillRule="evenodd"
            fill={entry.id === chosen ? COLOURS.madder : COLOURS.white}
            fillOpacity={entry.id === chosen ? 0.14 : 0.01}
            stroke={entry.id === chosen ? COLOURS.madder : COLOURS.ink}
            strokeDasharray={cut ? "4 3" : undefined}
            strokeWidth={entry.id === chosen ? 1.6 : 1}
            strokeOpacity={entry.id === chosen ? 1 : 0.7}
            onPointerDown={(event) => {
              if (event.button !== 0 || entry.id === chosen) return;
              event.stopPropagation();
              choose("entries", entry.id);
            }}
          />
        );
      })}
      {remarks.flatMap(({ entry_id, places_mm }) =>
        (places_mm ?? []).map(([right, up], index) => {
          const [x, y] = toScreen(frame, [0.5 + right / frame.wideMm, 0.5 - up / frame.tallMm]);
          return <circle key={`${entry_id} ${index}`} className="place-mark" cx={x} cy={y} r={8} opacity={entry_id === chosen ? 1 : 0.5} />;
        }),
      )}
      {islands.map(({ box_mm: [left, low, right, high] }, index) => {
        const [x0, y0] = toScreen(frame, [left / frame.wideMm, 1 - high / frame.tallMm]);
        const [x1, y1] = toScreen(frame, [right / frame.wideMm, 1 - low / frame.tallMm]);
        return <rect key={index} className="island-mark" x={x0 - 4} y={y0 - 4} width={x1 - x0 + 8} height={y1 - y0 + 8} rx={4} />;
      })}
    </g>
  );
}
