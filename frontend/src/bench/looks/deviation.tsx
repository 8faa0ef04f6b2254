import { useThree } from "@react-three/fiber";
import { useEffect } from "react";
import type { FinishStep, Recipe } from "../../api/client";
import { mm } from "../../shared/format";
import { kindOf, titleOf } from "../steps/kinds";
import { FINISH } from "../steps/finish";
import { finishSteps } from "../at";
import { usePieceStore } from "../pieceStore";
import { useDeviation, useTint } from "../useDeviation";
import type { Look, SurfaceProps } from "./look";
import { Stone } from "./surface";

/** The finish step that is open, or the last one: of those that keep the shape, nearly. */
function useSeenStep(recipe: Recipe): FinishStep | undefined {
  const chosen = usePieceStore((state) => state.chosen.finish);
  const on = finishSteps.read(recipe).filter((step) => step.enabled && FINISH[step.kind].near);
  return on.find((step) => step.id === chosen) ?? on.at(-1);
}

/** Where a finish step moved the surface, and how far. */
function Tinted({ piece, shown, recipe, resting }: SurfaceProps) {
  const invalidate = useThree((state) => state.invalidate);
  const { data } = useDeviation(piece, recipe, useSeenStep(recipe)?.id, resting);
  const tint = useTint(data?.address);
  useEffect(() => invalidate(), [tint, invalidate]);
  if (!tint) return <Stone shown={shown} />;
  return (
    <mesh geometry={tint}>
      <meshLambertMaterial vertexColors />
    </mesh>
  );
}

function Legend({ piece, recipe, resting }: Omit<SurfaceProps, "shown">) {
  const step = useSeenStep(recipe);
  const { data, error } = useDeviation(piece, recipe, step?.id, resting);
  if (!step) return null;
  const title = titleOf(kindOf(FINISH, step), step).toLowerCase();
  return (
    <div className="legend" role="status">
      <span>moved by “{title}”</span>
      {data ? (
        <>
          <span className="mono">0</span>
          <span className="legend-scale" aria-hidden="true" />
          <span className="mono">{mm(data.said.max_mm, 4)} mm</span>
        </>
      ) : (
        <span className="quiet">{error ? "could not be measured" : "is measured"}</span>
      )}
    </div>
  );
}

export const deviation: Look = {
  id: "deviation",
  words: "deviation",
  title: "How far the finish step that is open moved the surface",
  Surface: Tinted,
  Legend,
  suits: (recipe) => recipe.finish.some((step) => step.enabled && FINISH[step.kind].near),
};
