import type { Decoration } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { LengthField } from "../../../shared/LengthField";
import { SelectField } from "../../../shared/SelectField";
import { usePieceStore } from "../../pieceStore";
import { fading } from "./spots";
import { PointButton } from "../../PointButton";

interface Props {
  step: Decoration;
  set: (part: Partial<Decoration>, resting?: boolean) => void;
}

/** Where its depth goes down to nothing. */
export function Fading({ step, set }: Props) {
  return (
    <>
      <SelectField
        label="Fades to nothing"
        value={step.fade_to}
        options={[
          ["none", "nowhere"],
          ["rim", "all around"],
          ["left", "to the left"],
          ["right", "to the right"],
          ["top", "upwards"],
          ["bottom", "downwards"],
          ["brush", "under a brush"],
        ]}
        onChange={(fade_to) => set({ fade_to })}
      />
      {step.fade_to === "brush" && <FadeBrush step={step} set={set} />}
      {step.fade_to !== "none" && (
        <LengthField label="Over" value={step.fade} range={[0.5, 50]} limits={[0.1, 5000]} step={0.5} slider onChange={(fade, r) => set({ fade }, r)} />
      )}
    </>
  );
}

function FadeBrush({ step, set }: Props) {
  const { picking, pick, dab, setDab } = usePieceStore();
  const on = picking === fading(step);
  const count = step.fade_strokes.length;
  return (
    <>
      <div className="d-flex gap-2 align-items-start">
        <PointButton name="Brush" how="Draw on the decoration." on={on} onChange={(now) => pick(now ? fading(step) : undefined)} />
        {count > 0 && (
          <Button size="sm" variant="plain" onClick={() => set({ fade_strokes: step.fade_strokes.slice(0, -1) })}>
            Take the last stroke away
          </Button>
        )}
      </div>
      <p className="field-help">
        What is drawn over goes down to nothing and stays with the decoration; {count === 1 ? "1 stroke" : `${count} strokes`} so far.
      </p>
      <LengthField label="Brush" value={dab.size} range={[1, 40]} limits={[0.2, 200]} step={0.5} slider onChange={(size) => setDab({ size })} />
    </>
  );
}
