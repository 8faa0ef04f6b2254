import { type PointerEvent, useRef } from "react";
import { COLOURS } from "../../../shared/colours";
import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { NumberField } from "../../../shared/NumberField";
import { histogramPath } from "../../picture/Histogram";
import { useInput } from "../../picture/useInput";
import { tone } from "./words";
import type { CorrectionStep, Editing } from "./correction";

const WIDE = 256;
const TALL = 76;
const APART = 0.01;

function LevelsEditor({ step, set, recipe, index }: Editing<"levels">) {
  const input = useInput(recipe, index);
  const held = useRef<"black" | "white">(undefined);
  const [black, white] = step.auto ? (input?.levels ?? [0, 1]) : [step.black, step.white];
  const round = (value: number) => Number(value.toFixed(4));

  function move(event: PointerEvent<SVGSVGElement>, resting: boolean) {
    if (!held.current) return;
    const box = event.currentTarget.getBoundingClientRect();
    const at = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
    if (held.current === "black") set({ auto: false, white: round(white), black: round(Math.min(at, white - APART)) }, resting);
    else set({ auto: false, black: round(black), white: round(Math.max(at, black + APART)) }, resting);
  }

  return (
    <>
      <svg
        className="histogram"
        viewBox={`0 -2 ${WIDE} ${TALL + 14}`}
        role="img"
        aria-label="Histogram of the picture before this correction"
        onPointerDown={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          const at = (event.clientX - box.left) / box.width;
          held.current = Math.abs(at - black) < Math.abs(at - white) ? "black" : "white";
          event.currentTarget.setPointerCapture(event.pointerId);
          move(event, false);
        }}
        onPointerMove={(event) => move(event, false)}
        onPointerUp={(event) => {
          move(event, true);
          held.current = undefined;
        }}
      >
        <rect width={WIDE} height={TALL} fill={COLOURS.plaster} />
        {input && <path d={histogramPath(input.histogram, WIDE, TALL)} fill={COLOURS.bars} />}
        {[
          ["black", black],
          ["white", white],
        ].map(([name, at]) => (
          <g key={name} transform={`translate(${Number(at) * WIDE} 0)`}>
            <line y1="0" y2={TALL} stroke={COLOURS.madder} strokeWidth="1.2" />
            <path d={`M0 ${TALL}l6 10h-12Z`} fill={name === "black" ? COLOURS.ink : COLOURS.white} stroke={COLOURS.ink} />
          </g>
        ))}
      </svg>
      <Choice
        label="Points"
        value={step.auto ? "auto" : "set"}
        options={[
          ["auto", "automatic"],
          ["set", "by hand"],
        ]}
        onChange={(way) => set(way === "auto" ? { auto: true } : { auto: false, black: round(black), white: round(white) })}
      />
      {step.auto ? (
        <p className="field-help">
          Found: {black.toFixed(3)} becomes black, {white.toFixed(3)} becomes white.
        </p>
      ) : (
        <>
          <NumberField
            label="Black point"
            value={step.black}
            range={[0, Number((step.white - APART).toFixed(4))]}
            step={0.002}
            onChange={(value, r) => set({ black: value }, r)}
          />
          <NumberField
            label="White point"
            value={step.white}
            range={[Number((step.black + APART).toFixed(4)), 1]}
            step={0.002}
            onChange={(value, r) => set({ white: value }, r)}
          />
        </>
      )}
      <NumberField
        label="Mid-tone"
        value={step.middle}
        range={[0.2, 5]}
        step={0.05}
        help="Above 1 lightens what is between."
        onChange={(middle, r) => set({ middle }, r)}
      />
      {step.middle !== 1 && (
        <Button size="sm" variant="plain" onClick={() => set({ middle: 1 })}>
          Mid-tone to 1
        </Button>
      )}
    </>
  );
}

export const levels: CorrectionStep<"levels"> = {
  name: "Levels",
  purpose: "black point, white point, mid-tone",
  group: "Tones",
  figure: (step) => (step.auto ? "automatic" : `${tone(step.black)} to ${tone(step.white)}`),
  fresh: () => ({ auto: true }),
  Editor: LevelsEditor,
};
