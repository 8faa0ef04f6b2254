import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { SelectField } from "../../../shared/SelectField";
import { hasHeights } from "../../at";
import { Changed } from "./Changed";
import { type Editing, fewer, type Finishing } from "./finishing";

const WAYS = [
  ["triangles", "triangles"],
  ["share", "share"],
  ["deviation", "deviation"],
  ["size", "file size"],
] as const;
const FORMATS = [
  ["stl", "STL"],
  ["3mf", "3MF"],
  ["obj", "OBJ"],
  ["ply", "PLY"],
  ["glb", "GLB"],
  ["off", "OFF"],
] as const;

function SimplifyEditor(props: Editing<"simplify">) {
  const { step, set, recipe, index } = props;
  const again = hasHeights(recipe) && index === 0;
  return (
    <>
      <Choice
        label="Down to"
        value={step.to}
        options={WAYS}
        help={again ? "The heights are made into triangles anew, more coarsely: better than taking triangles away." : "Borders, sharp edges and colours stay."}
        onChange={(to) => set({ to })}
      />
      {step.to === "triangles" && (
        <NumberField
          label="Triangles"
          value={step.triangles}
          range={[4, 20_000_000]}
          step={10_000}
          slider={false}
          onChange={(most, r) => set({ triangles: Math.round(most) }, r)}
        />
      )}
      {step.to === "share" && (
        <NumberField label="Share" unit="%" value={step.share * 100} range={[0.1, 100]} step={5} onChange={(share, r) => set({ share: share / 100 }, r)} />
      )}
      {step.to === "deviation" && (
        <LengthField
          label="Deviation"
          help="Nothing moves further than this."
          value={step.deviation}
          range={[0.001, 1]}
          limits={[0.0001, 50]}
          step={0.005}
          slider
          onChange={(deviation, r) => set({ deviation }, r)}
        />
      )}
      {step.to === "size" && (
        <>
          <NumberField label="File size" unit="MB" value={step.mb} range={[0.001, 2000]} step={1} slider={false} onChange={(mb, r) => set({ mb }, r)} />
          <SelectField label="Format" value={step.format} options={FORMATS} onChange={(format) => set({ format })} />
        </>
      )}
      <Changed {...props} near />
    </>
  );
}

export const simplify: Finishing<"simplify"> = {
  name: "Simplify",
  purpose: "fewer triangles, for what takes no more",
  also: "decimate, reduce",
  group: "Triangles",
  figure: (step, context) => fewer(step, context, ""),
  fresh: ({ figures }) => (figures ? { triangles: Math.max(4, Number((figures.mesh.triangles / 2).toPrecision(2))) } : {}),
  near: true,
  Editor: SimplifyEditor,
};
