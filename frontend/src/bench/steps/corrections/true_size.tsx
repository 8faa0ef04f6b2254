import { COLOURS } from "../../../shared/colours";
import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { usePieceStore } from "../../pieceStore";
import { fromPlace, type Spot, toPlace } from "../../picture/frame";
import { Grip } from "../../picture/grips";
import { useInput } from "../../picture/useInput";
import { length } from "./words";
import { PlaceFields } from "./PlaceFields";
import type { CorrectionStep, Editing, Handling } from "./correction";

function TrueSizeEditor({ step, set, recipe, index }: Editing<"true_size">) {
  const { tool, setTool } = usePieceStore();
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

function Measure({ step, frame, change }: Handling<"true_size">) {
  const first = step.first && fromPlace(frame, step.first);
  const second = step.second && fromPlace(frame, step.second);
  const move = (which: "first" | "second") => (spot: Spot, _: Spot, resting: boolean) => change({ [which]: toPlace(frame, spot) }, resting);
  if (step.measure !== "between") return null;
  return (
    <g>
      {first && second && (
        <>
          <line x1={first[0]} y1={first[1]} x2={second[0]} y2={second[1]} stroke={COLOURS.white} strokeWidth="4" />
          <line x1={first[0]} y1={first[1]} x2={second[0]} y2={second[1]} stroke={COLOURS.madder} strokeWidth="1.8" />
          <text className="mono measure" x={(first[0] + second[0]) / 2} y={(first[1] + second[1]) / 2 - 8} textAnchor="middle">
            {mm(step.length.mm)} mm
          </text>
        </>
      )}
      {first && <Grip spot={first} label="First point" frame={frame} onDrag={move("first")} />}
      {second && <Grip spot={second} label="Second point" frame={frame} onDrag={move("second")} />}
    </g>
  );
}

export const trueSize: CorrectionStep<"true_size"> = {
  name: "True size",
  purpose: "say what a length really measures",
  group: "Frame",
  figure: (step) => length(step.length),
  fresh: () => ({ length: { mm: 100 } }),
  Editor: TrueSizeEditor,
  Handles: Measure,
  tools: {
    first: { by: "click", done: (_, { place }) => ({ part: { measure: "between", first: place }, then: "second", resting: false }) },
    second: { by: "click", done: (_, { place }) => ({ part: { measure: "between", second: place }, then: "none" }) },
  },
  framing: true,
};
