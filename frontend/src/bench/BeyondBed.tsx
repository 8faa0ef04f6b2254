import type { Figures, FinishStep, Recipe } from "../api/client";
import { FRESH, newId } from "../api/fresh";
import { AXES } from "../shared/axes";
import { Button } from "../shared/Button";
import { mm } from "../shared/format";
import { change, finishSteps } from "./at";
import { usePieceStore } from "./pieceStore";
import type { OpenPiece } from "./usePiece";

const LEAST_PIN_MM = 1;

interface Props {
  figures: Figures;
  recipe: Recipe;
  edit: OpenPiece["edit"];
}

/** What does not fit on the bed, and what helps. */
export function BeyondBed({ figures, recipe, edit }: Props) {
  const { choose, go } = usePieceStore();
  const { name, bed_wide_mm, bed_deep_mm, bed_high_mm } = recipe.made_with.printer;
  const over = figures.beyond_bed_mm ?? [0, 0, 0];
  const along = over.indexOf(Math.max(...over));
  const middle = figures.mesh.low_mm[along] + figures.mesh.size_mm[along] / 2;
  function split() {
    // Pins no wider than lets walls stay around them; none where that is nothing.
    const thin = Math.min(...figures.mesh.size_mm.filter((_, axis) => axis !== along));
    const wide = Math.min(FRESH.finish.split.wide.mm, Math.floor(thin * 4) / 10);
    const pins = wide < LEAST_PIN_MM ? { pins: 0 } : { wide: { mm: wide, text: null } };
    const step = { ...FRESH.finish.split, ...pins, id: newId("finish"), axis: AXES[along], at: { mm: Number(middle.toFixed(2)), text: null } } as FinishStep;
    edit(
      change(finishSteps, (list) => [...list, step]),
      "add split",
      true,
    );
    go("finish");
    choose("finish", step.id);
  }
  return (
    <div className="state-caution mb-3">
      <p className="mb-1">
        It is {figures.mesh.size_mm.map((side) => mm(side, 1)).join(" × ")} mm; the bed of {name} has room for{" "}
        {[bed_wide_mm, bed_deep_mm, bed_high_mm].map((side) => mm(side, 0)).join(" × ")} mm.
      </p>
      <Button size="sm" variant="plain" onClick={split}>
        Split it
      </Button>
    </div>
  );
}
