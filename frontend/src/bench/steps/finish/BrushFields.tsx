import type { FinishStep, Recipe } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { LengthField } from "../../../shared/LengthField";
import { usePieceStore } from "../../pieceStore";
import { liesAsShown } from "./finishing";
import { PointButton } from "../../PointButton";

type Brushed = Extract<FinishStep, { kind: "smooth" | "push" }>;

interface Props {
  step: Brushed;
  set: (part: { strokes: Brushed["strokes"] }) => void;
  recipe: Recipe;
}

/** The brush on the piece, and what it left. */
export function BrushFields({ step, set, recipe }: Props) {
  const { dab, setDab, picking, pick } = usePieceStore();
  const on = picking === step.id;
  const here = liesAsShown(recipe.finish, step);
  const strokes = step.strokes.length;
  return (
    <>
      <PointButton name="Brush" how="Draw on the piece." disabled={!here} on={on} onChange={(now) => pick(now ? step.id : undefined)} />
      {!here && <p className="field-help">Possible while no step after it moves the piece.</p>}
      <LengthField label="Brush, wide" value={dab.size} range={[1, 40]} limits={[0.2, 200]} step={0.5} slider onChange={(size) => setDab({ size })} />
      <LengthField
        label="Strength"
        help="How far it moves the surface at most."
        value={dab.strength}
        range={[0.05, 5]}
        limits={[0.001, 50]}
        step={0.05}
        slider
        onChange={(strength) => setDab({ strength })}
      />
      <div className="field d-flex gap-2 align-items-center">
        <span className="quiet">
          {strokes} stroke{strokes === 1 ? "" : "s"}
        </span>
        <Button size="sm" variant="plain" disabled={strokes === 0} onClick={() => set({ strokes: step.strokes.slice(0, -1) })}>
          Take back the last
        </Button>
        <Button size="sm" variant="plain" disabled={strokes === 0} onClick={() => set({ strokes: [] })}>
          All
        </Button>
      </div>
    </>
  );
}
