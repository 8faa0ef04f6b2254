import { useMemo } from "react";
import type { Recipe } from "../../api/client";
import { mm } from "../../shared/format";
import { toneReader } from "./draw";
import { type Frame, type Spot, toShare } from "./frame";
import type { Shown } from "./useCorrected";
import { useSpotHeight } from "./useSpotHeight";

interface Props {
  recipe: Recipe;
  /** Where the pointer is, px of the screen. */
  spot: Spot | undefined;
  frame: Frame;
  shown: Shown;
  /** Whether what is shown is what is kept. */
  still: boolean;
}

/** What is under the pointer: where it is, its tone, its height. */
export function Readout({ recipe, spot, frame, shown, still }: Props) {
  const { corrected, pixels } = shown;
  const readTone = useMemo(() => toneReader(pixels), [pixels]);
  const share = spot && toShare(frame, spot);
  const inside = share?.every((value) => value >= 0 && value <= 1) ? share : undefined;
  const height = useSpotHeight(recipe, inside, still);
  if (!inside) return null;
  const [u, v] = inside;
  return (
    <span className="chip mono readout" role="status">
      {mm(u * corrected.wide_mm, 1)}, {mm((1 - v) * corrected.tall_mm, 1)} mm
      {" · "}
      {Math.round(u * (corrected.cols - 1))}, {Math.round(v * (corrected.rows - 1))} px
      {" · tone "}
      {readTone(u, v).toFixed(2)}
      {height && ` · ${height.there ? `${mm(height.height_mm)} mm` : "cut through"}`}
    </span>
  );
}
