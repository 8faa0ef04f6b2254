import { useEffect, useRef, useState } from "react";
import type { Piece, Recipe } from "../api/client";
import { mm, size } from "../shared/format";
import { useBench } from "./benchStore";

interface Props {
  piece: Piece;
  recipe: Recipe;
}

const MARGIN = { left: 44, right: 22, top: 76, bottom: 60 };

/** A pleasant distance between ruler numbers, mm, given how many px a mm takes. */
function rulerStep(pxPerMm: number): number {
  const least = 38 / pxPerMm;
  const power = 10 ** Math.floor(Math.log10(least));
  return [1, 2, 5, 10].map((factor) => factor * power).find((step) => step >= least) ?? least;
}

/** Size of the piece in mm, as its recipe says. */
function extent({ piece, recipe }: Props): [number, number] {
  const { cols, rows } = piece.picture;
  const side = recipe.picture.side?.mm ?? 100;
  if (recipe.picture.along === "tall") return [(side / (rows - 1)) * (cols - 1), side];
  return [side, (side / (cols - 1)) * (rows - 1)];
}

/** The picture with rulers in mm along its upper and left edge. */
export function PictureView(props: Props) {
  const { piece } = props;
  const { split, setSplit } = useBench();
  const frame = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState({ width: 0, height: 0 });
  const [spot, setSpot] = useState<{ x: number; y: number }>();

  useEffect(() => {
    if (!frame.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry.contentRect;
      setRoom({ width, height });
    });
    observer.observe(frame.current);
    return () => observer.disconnect();
  }, []);

  const [wide, tall] = extent(props);
  const scale = Math.max(
    0.01,
    Math.min(
      (room.width - MARGIN.left - MARGIN.right) / wide,
      (room.height - MARGIN.top - MARGIN.bottom) / tall,
    ),
  );
  const width = wide * scale;
  const height = tall * scale;
  const left = MARGIN.left + Math.max(0, (room.width - MARGIN.left - MARGIN.right - width) / 2);
  const top = MARGIN.top + Math.max(0, (room.height - MARGIN.top - MARGIN.bottom - height) / 2);
  const step = rulerStep(scale);
  const ticks = (length: number) =>
    Array.from({ length: Math.floor((length / step) * 5 + 1e-6) + 1 }, (_, index) => ({
      at: (index * step) / 5,
      long: index % 5 === 0,
    }));

  return (
    <section className="view picture-view" ref={frame} aria-label="Picture view">
      <div className="view-bar">
        <span className="view-name">Picture</span>
        {spot && (
          <span className="chip mono" role="status">
            {mm(spot.x, 1)} , {mm(spot.y, 1)} mm
          </span>
        )}
        <button
          type="button"
          className="chip"
          onClick={() => setSplit(split === 1 ? 0.44 : 1)}
        >
          {split === 1 ? "both views" : "fill"}
        </button>
      </div>
      {room.width > 0 && (
        <>
          <svg width={room.width} height={room.height} aria-hidden="true" style={{ position: "absolute" }}>
            <g stroke="#6B6470" strokeWidth="1">
              {ticks(wide).map(({ at, long }) => (
                <line key={at} x1={left + at * scale} x2={left + at * scale} y1={top - 3} y2={top - (long ? 11 : 7)} />
              ))}
              {ticks(tall).map(({ at, long }) => (
                <line key={at} y1={top + height - at * scale} y2={top + height - at * scale} x1={left - 3} x2={left - (long ? 11 : 7)} />
              ))}
            </g>
            <g className="mono" fill="#6B6470" fontSize="12">
              {ticks(wide).filter((t) => t.long).map(({ at }) => (
                <text key={at} x={left + at * scale} y={top - 15} textAnchor="middle">{mm(at, 2)}</text>
              ))}
              {ticks(tall).filter((t) => t.long).map(({ at }) => (
                <text key={at} x={left - 14} y={top + height - at * scale + 4} textAnchor="end">{mm(at, 2)}</text>
              ))}
            </g>
          </svg>
          <img
            src={`/api/pictures/${piece.picture.sha256}/view.png`}
            alt={piece.picture.filename}
            draggable={false}
            style={{ position: "absolute", left, top, width, height }}
            onPointerMove={(event) => {
              const box = event.currentTarget.getBoundingClientRect();
              setSpot({
                x: ((event.clientX - box.left) / box.width) * wide,
                y: (1 - (event.clientY - box.top) / box.height) * tall,
              });
            }}
            onPointerLeave={() => setSpot(undefined)}
          />
          <div
            className="mono quiet d-flex justify-content-between"
            style={{ position: "absolute", left, top: top + height + 10, width: Math.max(width, 240) }}
          >
            <span>{size(wide, tall)}</span>
            <span>{mm((piece.picture.cols - 1) / wide, 1)} px per mm</span>
          </div>
        </>
      )}
    </section>
  );
}
