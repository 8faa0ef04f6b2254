import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { Changed } from "./Changed";
import type { Editing, Finishing } from "./finishing";

function RebuildEditor(props: Editing<"rebuild">) {
  const { step, set } = props;
  return (
    <>
      <LengthField
        label="Voxel"
        help="Detail finer than this is lost."
        value={step.voxel}
        range={[0.1, 5]}
        limits={[0.02, 100]}
        step={0.1}
        slider
        onChange={(voxel, r) => set({ voxel }, r)}
      />
      <LengthField
        label="Offset"
        help="Grown by this on all sides; shrunk where it is below 0."
        value={step.offset}
        range={[-5, 5]}
        limits={[-50, 50]}
        step={0.1}
        slider
        onChange={(offset, r) => set({ offset }, r)}
      />
      <Changed {...props} near />
    </>
  );
}

export const rebuild: Finishing<"rebuild"> = {
  name: "Rebuild",
  purpose: "from a grid of voxels: closed, joined, grown or shrunk",
  also: "remesh, voxels, offset",
  group: "Mend",
  figure: (step) => `${mm(step.voxel.mm, 2)} mm`,
  near: true,
  Editor: RebuildEditor,
};
