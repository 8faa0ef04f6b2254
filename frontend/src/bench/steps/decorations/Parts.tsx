import type { Decoration, Recipe } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { LengthField } from "../../../shared/LengthField";
import { showError, useNotices } from "../../../shared/notices";
import { usePieceStore } from "../../pieceStore";
import { type Part, parting, spotsAt } from "./spots";
import { PointButton } from "../../PointButton";

interface Props {
  step: Decoration;
  recipe: Recipe;
  depthMm: number;
  set: (part: Partial<Decoration>, resting?: boolean) => void;
}

/** Parts that stand alone in the art, each with a sign and a depth of its own. */
export function Parts({ step, recipe, depthMm, set }: Props) {
  const { picking, pick } = usePieceStore();
  const show = useNotices((state) => state.show);
  const on = picking === parting(step);
  const change = (at: number, part: Partial<Part>, resting: boolean) =>
    set({ parts: step.parts.map((old, i) => (i === at ? { ...old, ...part } : old)) }, resting);
  async function point(place: [number, number, number]) {
    try {
      const { spots } = await spotsAt(recipe, step.id, [place]);
      const [spot] = spots;
      if (!spot) {
        show({ tone: "plain", title: "That is beside the decoration", text: "Point at a part of it." });
        return;
      }
      const mm = (step.does === "sink" ? 1 : -1) * depthMm;
      set({ parts: [...step.parts, { spot, depth: { mm, text: null } }] }, true);
      pick(undefined);
    } catch (error) {
      showError(error);
    }
  }
  return (
    <>
      <PointButton
        name="A part of its own depth"
        how="Point at a part of it."
        on={on}
        onChange={(now) => (now ? pick(parting(step), ({ place }) => void point(place)) : pick(undefined))}
      />
      {step.parts.map(({ depth }, at) => (
        <div key={at} className="d-flex align-items-end gap-2">
          <div className="flex-grow-1">
            <LengthField
              label={`Part ${at + 1}`}
              help={at === 0 ? "Above 0 it is raised, below 0 sunk." : undefined}
              value={depth}
              range={[-5, 5]}
              limits={[-500, 500]}
              step={0.1}
              slider
              onChange={(now, r) => change(at, { depth: now }, r)}
            />
          </div>
          <Button
            size="sm"
            variant="plain"
            className="mb-2"
            aria-label={`Part ${at + 1} as the others`}
            onClick={() => set({ parts: step.parts.filter((_, i) => i !== at) }, true)}
          >
            As the others
          </Button>
        </div>
      ))}
    </>
  );
}
