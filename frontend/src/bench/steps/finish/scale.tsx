import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { Changed } from "./Changed";
import { type Editing, type Finishing } from "./finishing";
import { AXES } from "../../../shared/axes";

const WAYS = [
  ["factor", "by factors"],
  ["size", "to a size"],
  ["volume", "to a volume"],
] as const;

function ScaleEditor(props: Editing<"scale">) {
  const { step, set } = props;
  return (
    <>
      <Choice label="Scale" value={step.by} options={WAYS} help="From the middle of its underside." onChange={(by) => set({ by })} />
      {step.by === "factor" &&
        AXES.map((axis) => (
          <NumberField
            key={axis}
            label={`Times along ${axis}`}
            value={step[axis]}
            range={[0.0001, 10_000]}
            step={0.05}
            slider={false}
            onChange={(times, r) => set({ [axis]: times }, r)}
          />
        ))}
      {step.by === "size" && (
        <>
          <Choice label="Along" value={step.axis} options={AXES.map((axis) => [axis, axis] as const)} onChange={(axis) => set({ axis })} />
          <LengthField label="Size" value={step.size} range={[1, 500]} limits={[0.01, 100_000]} step={1} slider onChange={(size, r) => set({ size }, r)} />
        </>
      )}
      {step.by === "volume" && (
        <NumberField
          label="Volume"
          unit="cm³"
          value={step.volume_cm3}
          range={[0.001, 1e9]}
          step={1}
          slider={false}
          onChange={(volume_cm3, r) => set({ volume_cm3 }, r)}
        />
      )}
      <Changed {...props} />
    </>
  );
}

export const scale: Finishing<"scale"> = {
  name: "Scale",
  purpose: "to a size, a volume, or by factors",
  also: "resize",
  group: "Place",
  figure: (step) =>
    step.by === "size"
      ? `${step.axis} ${mm(step.size.mm, 2)} mm`
      : step.by === "volume"
        ? `${mm(step.volume_cm3, 2)} cm³`
        : step.x === step.y && step.y === step.z
          ? `× ${mm(step.x, 3)}`
          : AXES.map((axis) => mm(step[axis], 3)).join(" × "),
  fresh: ({ figures }) =>
    figures
      ? { size: { mm: Number(figures.mesh.size_mm[2].toFixed(2)), text: null }, volume_cm3: Number((figures.mesh.volume_mm3 / 1000).toPrecision(4)) || 1 }
      : {},
  Editor: ScaleEditor,
};
