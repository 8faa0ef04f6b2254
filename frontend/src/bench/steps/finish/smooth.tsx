import { Choice } from "../../../shared/Choice";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import { usePieceStore } from "../../pieceStore";
import { BrushFields } from "./BrushFields";
import { Changed } from "./Changed";
import { type Editing, type Finishing, onPicture } from "./finishing";

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
  const { pick } = usePieceStore();
  const choose = (where: typeof step.where) => {
    set({ where });
    pick(where === "brush" ? step.id : undefined);
  };
  return (
    <>
      <NumberField
        label="Rounds"
        help="More rounds calm wider ripples. It encloses as much as before."
        value={step.rounds}
        range={[1, 100]}
        step={1}
        onChange={(rounds, r) => set({ rounds: Math.round(rounds) }, r)}
      />
      <Choice
        label="Where"
        value={step.where}
        options={WHERE.filter(([where]) => where !== "mask" || step.where === where || onPicture(piece, recipe))}
        help={HELP[step.where]}
        onChange={choose}
      />
      {step.where === "mask" && <Switch label="Dark parts instead" value={step.inverted} onChange={(inverted) => set({ inverted })} />}
      {step.where === "brush" && <BrushFields {...props} />}
      <Changed {...props} near />
    </>
  );
}

export const smooth: Finishing<"smooth"> = {
  name: "Smooth",
  purpose: "calmed without shrinking: everywhere, by a brush, by the picture",
  also: "relax, fair",
  group: "Shape",
  figure: (step) => (step.where === "brush" ? `${step.strokes.length} stroke${step.strokes.length === 1 ? "" : "s"}` : `${step.rounds}×`),
  near: true,
  Editor: SmoothEditor,
};
