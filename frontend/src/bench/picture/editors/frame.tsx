import { Form } from "react-bootstrap";
import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import type { Editing } from "../editing";
import { usePictureStore } from "../pictureStore";
import { boxLimits, typeBox } from "../crop";
import { useInput } from "../useInput";
import { PlaceFields } from "./PlaceFields";
import { ToneField } from "./ToneField";

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

export function CropEditor({ step, set, recipe, index }: Editing<"crop">) {
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
          <NumberField label="Tolerance" value={step.tolerance} range={[0, 0.5]} step={0.01} help="Tones this far from the edge of the picture are content." onChange={(tolerance, r) => set({ tolerance }, r)} />
          <LengthField label="Margin" value={step.margin} range={[0, 50]} step={0.5} onChange={(margin, r) => set({ margin }, r)} />
        </>
      )}
    </>
  );
}

export function TurnEditor({ step, set }: Editing<"turn">) {
  return (
    <>
      <Choice
        label="Quarter turns, to the left"
        value={String(step.quarters)}
        options={[
          ["0", "none"],
          ["1", "90°"],
          ["2", "180°"],
          ["3", "270°"],
        ]}
        onChange={(quarters) => set({ quarters: Number(quarters) })}
      />
      <NumberField label="Straighten" unit="°" value={step.degrees} range={[-45, 45]} step={0.1} onChange={(degrees, r) => set({ degrees }, r)} />
      {step.degrees !== 0 && (
        <Choice
          label="Empty corners"
          value={step.corners}
          options={[
            ["trim", "cut off"],
            ["fill", "filled"],
          ]}
          onChange={(corners) => set({ corners })}
        />
      )}
      {step.degrees !== 0 && step.corners === "fill" && (
        <ToneField label="Corner tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />
      )}
    </>
  );
}

export function MirrorEditor({ step, set }: Editing<"mirror">) {
  return (
    <Choice
      label="Swap"
      value={step.axis}
      options={[
        ["left-right", "left and right"],
        ["top-bottom", "top and bottom"],
      ]}
      onChange={(axis) => set({ axis })}
    />
  );
}

export function ResizeEditor({ step, set, recipe, index }: Editing<"resize">) {
  const input = useInput(recipe, index);
  return (
    <>
      <NumberField label="Pixels across" slider={false} value={step.cols} range={[2, 30000]} step={1} onChange={(cols, r) => set({ cols: Math.round(cols) }, r)} />
      <NumberField
        label="Pixels down"
        slider={false}
        value={step.rows ?? (input ? Math.round(((step.cols - 1) / (input.cols - 1)) * (input.rows - 1)) + 1 : 2)}
        range={[2, 30000]}
        step={1}
        help={step.rows == null ? "Follows the width; typing one stretches the picture." : "Stretched: the proportions are not kept."}
        onChange={(rows, r) => set({ rows: Math.round(rows) }, r)}
      />
      {step.rows != null && (
        <Button size="sm" variant="plain" onClick={() => set({ rows: null })}>
          Keep the proportions
        </Button>
      )}
    </>
  );
}

export function EnlargeEditor({ step, set }: Editing<"enlarge">) {
  return (
    <>
      <NumberField label="Times" value={step.factor} range={[1, 16]} step={0.5} onChange={(factor, r) => set({ factor }, r)} />
      <Choice
        label="What it is"
        value={step.method}
        options={[
          ["photograph", "photograph"],
          ["lines", "lines, flat art"],
        ]}
        help={step.method === "lines" ? "Edges stay one pixel sharp, whatever the size." : "Smooth between the pixels."}
        onChange={(method) => set({ method })}
      />
    </>
  );
}

const SIDES = ["left", "right", "top", "bottom"] as const;

export function ExtendEditor({ step, set }: Editing<"extend">) {
  const even = SIDES.every((side) => step[side].mm === step.left.mm);
  return (
    <>
      <Choice
        label="Measured in"
        value={step.percent == null ? "mm" : "percent"}
        options={[
          ["mm", "mm"],
          ["percent", "percent"],
        ]}
        onChange={(unit) => set({ percent: unit === "mm" ? null : 5 })}
      />
      {step.percent != null ? (
        <NumberField label="All around" unit="%" value={step.percent} range={[0, 100]} step={0.5} onChange={(percent, r) => set({ percent }, r)} />
      ) : (
        <>
          <LengthField
            label="All around"
            value={even ? step.left : { mm: step.left.mm }}
            range={[0, 50]}
            step={0.5}
            slider
            onChange={(value, r) => set({ left: value, right: value, top: value, bottom: value }, r)}
          />
          {SIDES.map((side) => (
            <LengthField key={side} label={side[0].toUpperCase() + side.slice(1)} value={step[side]} range={[0, 500]} step={0.5} onChange={(value, r) => set({ [side]: value }, r)} />
          ))}
        </>
      )}
      <ToneField label="Tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />
    </>
  );
}

export function TrueSizeEditor({ step, set, recipe, index }: Editing<"true_size">) {
  const { tool, setTool } = usePictureStore();
  const input = useInput(recipe, index);
  return (
    <>
      <Choice
        label="What is measured"
        value={step.measure}
        options={[
          ["wide", "width"],
          ["tall", "height"],
          ["between", "two points"],
        ]}
        onChange={(measure) => {
          if (measure !== "between") return set({ measure });
          // Two places to start from; both are dragged to where they belong.
          const { cols = 100, rows = 100 } = input ?? {};
          set({
            measure,
            first: step.first ?? [Math.round(cols * 0.25), Math.round(rows / 2)],
            second: step.second ?? [Math.round(cols * 0.75), Math.round(rows / 2)],
          });
          setTool("first");
        }}
      />
      {step.measure === "between" && (
        <div className="field d-flex gap-2">
          <button type="button" className="chip" aria-pressed={tool === "first"} onClick={() => setTool("first")}>
            mark first
          </button>
          <button type="button" className="chip" aria-pressed={tool === "second"} onClick={() => setTool("second")}>
            mark second
          </button>
        </div>
      )}
      {step.measure === "between" &&
        (["first", "second"] as const).map((which) => (
          <PlaceFields key={which} label={which === "first" ? "First" : "Second"} place={step[which]} onChange={(place, r) => set({ [which]: place }, r)} />
        ))}
      <LengthField
        label={step.measure === "between" ? "Real distance" : "Real size"}
        value={step.length}
        range={[0.1, 5000]}
        step={1}
        onChange={(length, r) => set({ length }, r)}
      />
    </>
  );
}

export function TileEditor({ step, set }: Editing<"tile">) {
  const { repeated, setRepeated } = usePictureStore();
  return (
    <>
      <NumberField label="Blended" unit="%" value={step.overlap * 100} range={[1, 45]} step={1} help="Share of each side over which opposite edges are blended." onChange={(value, r) => set({ overlap: value / 100 }, r)} />
      <button type="button" className="chip" aria-pressed={repeated} onClick={() => setRepeated(!repeated)}>
        see it 3 × 3
      </button>
    </>
  );
}
