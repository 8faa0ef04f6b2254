import { useQuery } from "@tanstack/react-query";
import { type PointerEvent, useRef } from "react";
import { api, take } from "../../../api/client";
import { COLOURS } from "../../../shared/colours";
import { Button } from "../../../shared/Button";
import { histogramPath } from "../../picture/Histogram";
import { useInput } from "../../picture/useInput";
import { count } from "./words";
import type { CorrectionStep, Editing } from "./correction";

const SIDE = 240;
const MOST = 16;

type Point = [number, number];

function CurveEditor({ step, set, recipe, index }: Editing<"curve">) {
  const input = useInput(recipe, index);
  const held = useRef<number>(undefined);
  const points = step.points as Point[];
  const drawn = useQuery({
    queryKey: ["curve", JSON.stringify(points)],
    queryFn: () => take(api.POST("/api/curve", { body: { curve: { ...step, points } } })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    retry: false,
  });
  const round = (value: number) => Number(Math.min(1, Math.max(0, value)).toFixed(3));

  const at = (event: PointerEvent<SVGSVGElement>): Point => {
    const box = event.currentTarget.getBoundingClientRect();
    return [round((event.clientX - box.left) / box.width), round(1 - (event.clientY - box.top) / box.height)];
  };

  function press(event: PointerEvent<SVGSVGElement>) {
    const [x, y] = at(event);
    event.currentTarget.setPointerCapture(event.pointerId);
    const near = points.findIndex(([px, py]) => Math.hypot(px - x, py - y) < 0.06);
    if (near >= 0) {
      held.current = near;
      return;
    }
    if (points.length >= MOST || points.some(([px]) => Math.abs(px - x) < 0.01)) return;
    const next = [...points, [x, y] as Point].sort((a, b) => a[0] - b[0]);
    held.current = next.findIndex(([px]) => px === x);
    set({ points: next }, false);
  }

  function move(event: PointerEvent<SVGSVGElement>, resting: boolean) {
    const now = held.current;
    if (now === undefined) return;
    const [x, y] = at(event);
    const low = now > 0 ? points[now - 1][0] + 0.005 : 0;
    const high = now < points.length - 1 ? points[now + 1][0] - 0.005 : 1;
    const next = points.map((point, i) => (i === now ? ([round(Math.min(high, Math.max(low, x))), y] as Point) : point));
    set({ points: next }, resting);
  }

  const line = drawn.data?.map((y, i) => `${(i / 64) * SIDE} ${(1 - y) * SIDE}`).join(" L");
  return (
    <>
      <svg
        className="curve"
        viewBox={`0 0 ${SIDE} ${SIDE}`}
        role="img"
        aria-label="Curve: tones before from left to right, after from bottom to top"
        onPointerDown={press}
        onPointerMove={(event) => move(event, false)}
        onPointerUp={(event) => {
          move(event, true);
          held.current = undefined;
        }}
      >
        <rect width={SIDE} height={SIDE} fill={COLOURS.plaster} />
        {input && <path d={histogramPath(input.histogram, SIDE, SIDE * 0.6)} transform={`translate(0 ${SIDE * 0.4})`} fill={COLOURS.faint} />}
        <path d={`M0 ${SIDE}L${SIDE} 0`} stroke={COLOURS.edge} strokeDasharray="3 4" />
        {line && <path d={`M${line}`} fill="none" stroke={COLOURS.madder} strokeWidth="2" />}
        {points.map(([x, y], i) => (
          <circle key={i} cx={x * SIDE} cy={(1 - y) * SIDE} r="5" fill={COLOURS.white} stroke={COLOURS.ink} strokeWidth="2" />
        ))}
      </svg>
      <p className="field-help">Press on the curve to add a point, drag it where it belongs.</p>
      <ol className="curve-points">
        {points.map(([x, y], i) => (
          <li key={i} className="mono">
            {x.toFixed(2)} becomes {y.toFixed(2)}
            <button
              type="button"
              className="btn btn-sm btn-link"
              aria-label={`Take away the point at ${x.toFixed(2)}`}
              disabled={points.length <= 2}
              onClick={() => set({ points: points.filter((_, other) => other !== i) })}
            >
              take away
            </button>
          </li>
        ))}
      </ol>
      <Button
        size="sm"
        variant="plain"
        onClick={() =>
          set({
            points: [
              [0, 0],
              [0.5, 0.5],
              [1, 1],
            ],
          })
        }
      >
        Straight again
      </Button>
    </>
  );
}

export const curve: CorrectionStep<"curve"> = {
  name: "Curve",
  purpose: "tones along a smooth curve",
  also: "gamma, tone curve",
  group: "Tones",
  figure: (step) => count(step.points.length, "point"),
  Editor: CurveEditor,
};
