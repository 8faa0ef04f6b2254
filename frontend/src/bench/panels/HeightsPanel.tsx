import { ToggleButton, ToggleButtonGroup } from "react-bootstrap";
import { Figure, FigureList } from "../../shared/Figure";
import { mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import type { PanelProps } from "./PanelProps";

export function HeightsPanel({ recipe, figures, edit }: PanelProps) {
  const heights = recipe.heights ?? {};
  const set = (change: Partial<typeof heights>, label: string, resting: boolean) =>
    edit((now) => ({ ...now, heights: { ...now.heights, ...change } }), label, resting);
  return (
    <>
      <h2>Heights</h2>
      <p className="intro">What the tones of the picture become, in millimetres.</p>
      <div className="field">
        <div className="field-label mb-1">Stands high</div>
        <ToggleButtonGroup
          type="radio"
          name="raised"
          className="w-100"
          value={heights.raised ?? "light"}
          onChange={(value: "light" | "dark") => set({ raised: value }, "raised tones", true)}
        >
          <ToggleButton id="raise-light" value="light" variant="outline-dark">
            Light tones
          </ToggleButton>
          <ToggleButton id="raise-dark" value="dark" variant="outline-dark">
            Dark tones
          </ToggleButton>
        </ToggleButtonGroup>
      </div>
      <LengthField
        label="Relief depth"
        help="From the top of the backing to the highest point."
        value={heights.depth ?? { mm: 3 }}
        range={[0.2, 20]}
        step={0.1}
        slider
        onChange={(depth, resting) => set({ depth }, "relief depth", resting)}
      />
      <LengthField
        label="Backing"
        help="The solid thickness under the relief."
        value={heights.backing ?? { mm: 1 }}
        range={[0.2, 10]}
        step={0.1}
        slider
        onChange={(backing, resting) => set({ backing }, "backing", resting)}
      />
      {figures && (
        <FigureList>
          <Figure name="Lowest">{mm(figures.heights.lowest_mm, 3)} mm</Figure>
          <Figure name="Highest">{mm(figures.heights.highest_mm, 3)} mm</Figure>
        </FigureList>
      )}
      <p className="coming mt-4">
        Shapes, lettering, frames and heights pinned to a grey will stand here. They are not built
        yet.
      </p>
    </>
  );
}
