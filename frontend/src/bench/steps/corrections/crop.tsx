import { useRef } from "react";
import { Form } from "react-bootstrap";
import { COLOURS } from "../../../shared/colours";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { boxLimits, moveBox, pullBox, typeBox } from "../../picture/crop";
import { type Spot, toScreen, toShare } from "../../picture/frame";
import { Grip, type Moved, useDrag, useKeyDrag } from "../../picture/grips";
import { useInput } from "../../picture/useInput";
import type { CorrectionStep, Editing, Handling } from "./correction";

const RATIOS: [string, number][] = [
  ["free", 0],
  ["1 : 1", 1],
  ["3 : 2", 1.5],
  ["4 : 3", 4 / 3],
  ["2 : 3", 2 / 3],
  ["3 : 4", 0.75],
];

/** The numbers of a box; a width of so many pixels is one pitch less in mm. */
const NUMBERS = [
  ["wide", "Box width", 1],
  ["tall", "Box height", 1],
  ["x", "From the left", 0],
  ["y", "From the top", 0],
] as const;

function CropEditor({ step, set, recipe, index }: Editing<"crop">) {
  const input = useInput(recipe, index);
  const box = step.box;
  const pitch = input ? input.wide_mm / (input.cols - 1) : 1;
  const room = { cols: input?.cols ?? 2, rows: input?.rows ?? 2, ratio: step.ratio };
  const resize = (part: Partial<NonNullable<typeof box>>, resting: boolean) => {
    if (box && input) set({ box: typeBox(box, part, room) }, resting);
  };
  return (
    <>
      <Choice
        label="Keep"
        value={step.by}
        options={[
          ["box", "a box"],
          ["content", "the content"],
        ]}
        onChange={(by) => set({ by, box: box ?? { x: 0, y: 0, wide: input?.cols ?? 100, tall: input?.rows ?? 100 } })}
      />
      {step.by === "box" && box && (
        <>
          <div className="field field-row">
            <label htmlFor="crop-ratio">Proportions</label>
            <Form.Select
              id="crop-ratio"
              size="sm"
              className="w-auto"
              value={RATIOS.find(([, ratio]) => Math.abs(ratio - (step.ratio ?? 0)) < 1e-6)?.[1] ?? 0}
              onChange={(event) => {
                const ratio = Number(event.target.value);
                if (!ratio) return set({ ratio: null });
                set({ ratio, box: typeBox(box, { wide: Math.min(box.wide, box.tall * ratio) }, { ...room, ratio }) });
              }}
            >
              {RATIOS.map(([name, ratio]) => (
                <option key={name} value={ratio}>
                  {name}
                </option>
              ))}
            </Form.Select>
          </div>
          {NUMBERS.map(([key, label, less]) => {
            const most = Math.floor((boxLimits(box, room)[key] - less) * pitch * 100) / 100;
            return (
              <LengthField
                key={key}
                label={label}
                value={{ mm: Number(((box[key] - less) * pitch).toFixed(2)) }}
                range={[0, most]}
                limits={[less * pitch, most]}
                step={0.5}
                onChange={(value, r) => resize({ [key]: value.mm / pitch + less }, r)}
              />
            );
          })}
          <p className="field-help">Or drag the box in the picture.</p>
        </>
      )}
      {step.by === "content" && (
        <>
          <NumberField
            label="Tolerance"
            value={step.tolerance}
            range={[0, 0.5]}
            step={0.01}
            help="Tones this far from the edge of the picture are content."
            onChange={(tolerance, r) => set({ tolerance }, r)}
          />
          <LengthField label="Margin" value={step.margin} range={[0, 50]} step={0.5} onChange={(margin, r) => set({ margin }, r)} />
        </>
      )}
    </>
  );
}

function CropBox({ step, box, frame, shown, change }: Handling<"crop"> & { box: Box }) {
  const { cols, rows } = shown.corrected;
  const before = useRef(box);
  const toScreenPx = (x: number, y: number) => toScreen(frame, [x / cols, y / rows]);
  const [left, top] = toScreenPx(box.x, box.y);
  const [right, bottom] = toScreenPx(box.x + box.wide, box.y + box.tall);
  const room = { cols, rows, ratio: step.ratio };
  const shift = (spot: Spot, start: Spot): Spot => {
    const [u0, v0] = toShare(frame, start);
    const [u1, v1] = toShare(frame, spot);
    return [(u1 - u0) * cols, (v1 - v0) * rows];
  };
  const move: Moved = (spot, start, resting) => change({ box: moveBox(before.current, shift(spot, start), room) }, resting);
  const whole = { ...useDrag(move), ...useKeyDrag(frame, [left, top], move) };
  const pull =
    (sides: string): Moved =>
    (spot, start, resting) =>
      change({ box: pullBox(before.current, sides, shift(spot, start), room) }, resting);
  const remember = () => {
    before.current = box;
  };
  const spots: Record<string, Spot> = {
    nw: [left, top],
    ne: [right, top],
    sw: [left, bottom],
    se: [right, bottom],
    n: [(left + right) / 2, top],
    s: [(left + right) / 2, bottom],
    w: [left, (top + bottom) / 2],
    e: [right, (top + bottom) / 2],
  };
  const { width, height } = frame;
  return (
    <g onPointerDownCapture={remember} onKeyDownCapture={remember}>
      <path
        d={`M${frame.left} ${frame.top}h${width}v${height}h${-width}Z M${left} ${top}V${bottom}H${right}V${top}Z`}
        fill={COLOURS.plaster}
        fillOpacity="0.72"
        fillRule="evenodd"
        pointerEvents="none"
      />
      <rect
        className="grab"
        x={left}
        y={top}
        width={Math.max(0, right - left)}
        height={Math.max(0, bottom - top)}
        fill="transparent"
        stroke={COLOURS.madder}
        strokeWidth="1.5"
        role="button"
        aria-label="Crop, all of it"
        {...whole}
      />
      {Object.entries(spots).map(([sides, spot]) => (
        <Grip key={sides} spot={spot} label={`Crop, ${sides}`} frame={frame} cursor={`${sides}-resize`} onDrag={pull(sides)} />
      ))}
    </g>
  );
}

type Box = NonNullable<Handling<"crop">["step"]["box"]>;

function CropHandles(props: Handling<"crop">) {
  const { by, box } = props.step;
  return by === "box" && box ? <CropBox {...props} box={box} /> : null;
}

export const crop: CorrectionStep<"crop"> = {
  name: "Crop",
  purpose: "keep a box, or what differs from the background",
  also: "trim, cut",
  group: "Frame",
  figure: (step) => (step.by === "content" ? "to content" : step.box ? `${Math.round(step.box.wide)} × ${Math.round(step.box.tall)} px` : ""),
  fresh: ({ piece: { picture } }) => ({ box: { x: 0, y: 0, wide: picture.cols, tall: picture.rows } }),
  Editor: CropEditor,
  Handles: CropHandles,
  framing: true,
  drawnBefore: true,
};
