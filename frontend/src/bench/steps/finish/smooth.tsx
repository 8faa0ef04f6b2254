import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import { usePieceStore } from "../../pieceStore";
import { Changed } from "./Changed";
import { type Editing, type Finishing, liesAsShown, onPicture } from "./finishing";

const WHERE = [
  ["everywhere", "everywhere"],
  ["brush", "by a brush"],
  ["mask", "by the picture"],
] as const;
const HELP = {
  everywhere: undefined,
  brush: "Only where the brush passes, softly towards its edge.",
  mask: "Light parts of the picture are smoothed, dark ones stay.",
};

function SmoothEditor(props: Editing<"smooth">) {
  const { step, set, piece, recipe } = props;
  const { picking, pick } = usePieceStore();
  const choose = (where: typeof step.where) => {
    set({ where });
    pick(where === "brush" ? step.id : undefined);
  };
  return (
    <>
      <NumberField label="Rounds" help="More rounds calm wider ripples. It encloses as much as before." value={step.rounds} range={[1, 100]} step={1} onChange={(rounds, r) => set({ rounds: Math.round(rounds) }, r)} />
      <Choice label="Where" value={step.where} options={WHERE.filter(([where]) => where !== "mask" || step.where === where || onPicture(piece, recipe))} help={HELP[step.where]} onChange={choose} />
      {step.where === "mask" && <Switch label="Dark parts instead" value={step.inverted} onChange={(inverted) => set({ inverted })} />}
      {step.where === "brush" && <BrushFields {...props} on={picking === step.id} />}
      <Changed {...props} near />
    </>
  );
}

function BrushFields({ step, set, recipe, on }: Editing<"smooth"> & { on: boolean }) {
  const { dab, setDab, pick } = usePieceStore();
  const here = liesAsShown(recipe.finish, step);
  const strokes = step.strokes.length;
  return (
    <>
      <Button size="sm" className="mb-2" variant={on ? undefined : "plain"} disabled={!here} aria-pressed={on} onClick={() => pick(on ? undefined : step.id)}>
        {on ? "Draw on the piece" : "Brush"}
      </Button>
      {!here && <p className="field-help">Possible while no step after it moves the piece.</p>}
      <LengthField label="Brush, wide" value={dab.size} range={[1, 40]} limits={[0.2, 200]} step={0.5} slider onChange={(size) => setDab({ size })} />
      <LengthField label="Strength" help="How far it moves the surface at most." value={dab.strength} range={[0.05, 5]} limits={[0.001, 50]} step={0.05} slider onChange={(strength) => setDab({ strength })} />
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

export const smooth: Finishing<"smooth"> = {
  name: "Smooth",
  purpose: "calmed without shrinking: everywhere, by a brush, by the picture",
  group: "Shape",
  figure: (step) => (step.where === "brush" ? `${step.strokes.length} stroke${step.strokes.length === 1 ? "" : "s"}` : `${step.rounds}×`),
  near: true,
  Editor: SmoothEditor,
};
