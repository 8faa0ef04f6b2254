import { type PointerEvent, useRef } from "react";
import type { Recipe, Tones } from "../../../api/client";
import { mm } from "../../../shared/format";
import { art, corrections, tones } from "../../at";
import { histogramPath } from "../../picture/Histogram";
import { useInput } from "../../picture/useInput";
import { useChart } from "./useChart";
import { COLOURS } from "../../../shared/colours";

const WIDE = 260;
const TALL = 132;
const LEFT = 34;
const RIGHT = 8;
const FOOT = 16;
const SPAN = WIDE - LEFT - RIGHT;

type Pin = Tones["pins"][number];

interface Props {
  recipe: Recipe;
  set: (change: (now: Tones) => Partial<Tones>, resting: boolean) => void;
}

/** Pins to begin with: as the straight line stands now. */
export function firstPins({ raised, depth }: Tones): Pin[] {
  const ends = raised === "light" ? [0, depth.mm] : [depth.mm, 0];
  return [
    { tone: 0, mm: { mm: ends[0] } },
    { tone: 1, mm: { mm: ends[1] } },
  ];
}

/** From tone to millimetres: the picture's tones behind, the line that the core draws, the pins. */
export function ToneChart({ recipe, set }: Props) {
  const heights = tones.read(recipe);
  const input = useInput(recipe, corrections.read(recipe).length);
  const held = useRef<{ tone: number; top: number }>(undefined);
  const drawn = useChart(recipe);
  const backing = art.read(recipe).backing.mm;
  const pins = heights.mapping === "straight" || heights.mapping === "light" ? firstPins(heights) : heights.pins;
  const highest = Math.max(0.5, ...pins.map((pin) => pin.mm?.mm ?? 0));
  const top = held.current?.top ?? highest * 1.15;
  const x = (tone: number) => LEFT + tone * SPAN;
  const y = (height: number) => TALL - FOOT - (height / top) * (TALL - FOOT - 8);
  const line = drawn?.map((height, i) => `${x(i / 255).toFixed(1)} ${y(Math.max(0, height - backing)).toFixed(1)}`);
  const movable = heights.mapping === "straight" || heights.mapping === "chart";

  const at = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const px = ((event.clientX - box.left) / box.width) * WIDE;
    const py = ((event.clientY - box.top) / box.height) * TALL;
    return {
      tone: Math.min(1, Math.max(0, (px - LEFT) / SPAN)),
      height: Math.max(0, ((TALL - FOOT - py) / (TALL - FOOT - 8)) * top),
    };
  };
  const rounded = (value: number) => Number(value.toFixed(2));

  function press(event: PointerEvent<SVGSVGElement>) {
    if (!movable) return;
    const { tone, height } = at(event);
    event.currentTarget.setPointerCapture(event.pointerId);
    const near = pins.find((pin) => Math.abs(pin.tone - tone) < 0.035);
    held.current = { tone: near?.tone ?? Number(tone.toFixed(3)), top };
    if (near && heights.mapping !== "straight") return;
    const first = near ? pins : [...pins, { tone: held.current.tone, mm: { mm: rounded(height) } }];
    set(() => ({ mapping: "chart", pins: first.toSorted((a, b) => a.tone - b.tone) }), false);
  }

  function move(event: PointerEvent<SVGSVGElement>, resting: boolean) {
    const now = held.current;
    if (!now) return;
    const { height } = at(event);
    if (resting) held.current = undefined;
    set(
      (old) => ({
        pins: old.pins.map((pin) => (pin.tone === now.tone ? { ...pin, mm: { mm: rounded(height) } } : pin)),
      }),
      resting,
    );
  }

  const marks = [0, highest / 2, highest];
  return (
    <div className="field">
      <svg
        className="tone-chart"
        viewBox={`0 0 ${WIDE} ${TALL}`}
        role="img"
        aria-label="Tone chart: tones from left to right, millimetres from bottom to top"
        onPointerDown={press}
        onPointerMove={(event) => move(event, false)}
        onPointerUp={(event) => move(event, true)}
      >
        <defs>
          <linearGradient id="tones">
            <stop offset="0" stopColor={COLOURS.black} />
            <stop offset="1" stopColor={COLOURS.white} />
          </linearGradient>
        </defs>
        {input && <path d={histogramPath(input.histogram, SPAN, TALL - FOOT - 8)} transform={`translate(${LEFT} 8)`} fill={COLOURS.shade} />}
        {marks.map((height) => (
          <g key={height}>
            <line x1={LEFT} x2={LEFT + SPAN} y1={y(height)} y2={y(height)} stroke={COLOURS.line} strokeDasharray="2 4" />
            <text className="mono" x={LEFT - 8} y={y(height) + 4} textAnchor="end" fontSize="10" fill={COLOURS.quiet}>
              {mm(height, 1)}
            </text>
          </g>
        ))}
        <rect x={LEFT} y={TALL - 9} width={SPAN} height="8" fill="url(#tones)" stroke={COLOURS.line} />
        {line && <path d={`M${line.join("L")}`} fill="none" stroke={COLOURS.ink} strokeWidth="1.8" />}
        {pins.map((pin) =>
          pin.mm ? (
            <circle key={pin.tone} cx={x(pin.tone)} cy={y(pin.mm.mm)} r="4.5" fill={COLOURS.white} stroke={COLOURS.madder} strokeWidth="2" />
          ) : (
            <path key={pin.tone} d={`M${x(pin.tone) - 4} ${y(0) - 4}l8 8m0-8l-8 8`} stroke={COLOURS.madder} strokeWidth="2" />
          ),
        )}
      </svg>
      <div className="field-help">
        {movable
          ? "Press on the line to pin a tone, drag it up or down."
          : heights.mapping === "light"
            ? "The curve follows from the material and the two bounds."
            : "Each tone keeps to its own height."}
      </div>
    </div>
  );
}
