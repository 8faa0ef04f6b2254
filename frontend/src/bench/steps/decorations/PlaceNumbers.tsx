import { api, type Decoration, type Figures, type Recipe, takeAs } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { showError } from "../../../shared/notices";
import { NumberField } from "../../../shared/NumberField";

interface Props {
  step: Decoration;
  recipe: Recipe;
  figures: Figures | undefined;
  set: (part: Partial<Decoration>, resting?: boolean) => void;
}

const tidy = (value: number) => Number(value.toFixed(3));

/** Where its middle is, in numbers: around the upright axis and above the table. */
export function PlaceNumbers({ step, recipe, figures, set }: Props) {
  if (!figures) return null;
  async function settle(by: "face" | "axis") {
    try {
      set({ at: await takeAs<Decoration["at"]>(api.POST("/api/decorations/caught", { body: { recipe, decoration_id: step.id, by } })) }, true);
    } catch (error) {
      showError(error);
    }
  }
  const { low_mm: low, size_mm: size } = figures.mesh;
  const [x, y] = figures.suits?.about ?? [low[0] + size[0] / 2, low[1] + size[1] / 2];
  const [dx, dy] = [step.at[0] - x, step.at[1] - y];
  const away = Math.hypot(dx, dy);
  // 0 faces whoever looks from the front.
  const angle = tidy((Math.atan2(dx, -dy) * 180) / Math.PI);
  const put = (at: [number, number, number], resting: boolean) => set({ at: at.map(tidy) as [number, number, number] }, resting);
  return (
    <>
      <div className="d-flex gap-2 flex-wrap mb-2">
        <Button size="sm" variant="plain" onClick={() => void settle("face")}>
          Middle of its face
        </Button>
        <Button size="sm" variant="plain" onClick={() => void settle("axis")}>
          Square to the axis
        </Button>
        <Button size="sm" variant="plain" onClick={() => set({ up: [0, 0, 1], turn: 0 }, true)}>
          Upright
        </Button>
      </div>
      {away > 1e-3 && (
        <NumberField
          label="Around z"
          unit="°"
          help="0 is the front, 90 the right."
          value={angle}
          range={[-180, 180]}
          step={1}
          slider={false}
          onChange={(turned, r) => put([x + away * Math.sin((turned * Math.PI) / 180), y - away * Math.cos((turned * Math.PI) / 180), step.at[2]], r)}
        />
      )}
      <NumberField
        label="Above its lowest"
        unit="mm"
        value={tidy(step.at[2] - low[2])}
        range={[-1000, 5000]}
        step={0.5}
        slider={false}
        onChange={(z, r) => put([step.at[0], step.at[1], low[2] + z], r)}
      />
      <NumberField
        label="From its left"
        unit="mm"
        value={tidy(step.at[0] - low[0])}
        range={[-1000, 5000]}
        step={0.5}
        slider={false}
        onChange={(u, r) => put([low[0] + u, step.at[1], step.at[2]], r)}
      />
      <NumberField
        label="From its front"
        unit="mm"
        value={tidy(step.at[1] - low[1])}
        range={[-1000, 5000]}
        step={0.5}
        slider={false}
        onChange={(v, r) => put([step.at[0], low[1] + v, step.at[2]], r)}
      />
    </>
  );
}
