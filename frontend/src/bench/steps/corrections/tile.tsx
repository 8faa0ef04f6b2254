import { mm } from "../../../shared/format";
import { NumberField } from "../../../shared/NumberField";
import { usePieceStore } from "../../pieceStore";
import type { CorrectionStep, Editing } from "./correction";

function TileEditor({ step, set }: Editing<"tile">) {
  const { repeated, setRepeated } = usePieceStore();
  return (
    <>
      <NumberField
        label="Blended"
        unit="%"
        value={step.overlap * 100}
        range={[1, 45]}
        step={1}
        help="Share of each side over which opposite edges are blended."
        onChange={(value, r) => set({ overlap: value / 100 }, r)}
      />
      <button type="button" className="chip" aria-pressed={repeated} onClick={() => setRepeated(!repeated)}>
        see it 3 × 3
      </button>
    </>
  );
}

export const tile: CorrectionStep<"tile"> = {
  name: "Make it tile",
  purpose: "edges that meet when it repeats",
  also: "seamless, repeat",
  group: "Frame",
  figure: (step) => `${mm(step.overlap * 100, 0)} %`,
  Editor: TileEditor,
  framing: true,
};
