import type { Recipe } from "../../api/client";
import { Button } from "../../shared/Button";
import { Choice } from "../../shared/Choice";
import { Figure, FigureList } from "../../shared/Figure";
import { mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import { Switch } from "../../shared/Switch";
import { usePictureStore } from "../picture/pictureStore";
import { useInput } from "../picture/useInput";
import type { PanelProps } from "./PanelProps";

type Heights = Recipe["heights"];
type Pin = Heights["pins"][number];

/** Pins to begin with: as the straight line stands now. */
function firstPins({ raised, depth }: Heights): Pin[] {
  const ends = raised === "light" ? [0, depth.mm] : [depth.mm, 0];
  return [
    { tone: 0, mm: { mm: ends[0] } },
    { tone: 1, mm: { mm: ends[1] } },
  ];
}

export function HeightsPanel({ recipe, figures, edit }: PanelProps) {
  const { heights } = recipe;
  const { tool, setTool } = usePictureStore();
  const result = useInput(recipe, recipe.picture.corrections.length);
  const set = (change: Partial<Heights>, label: string, resting: boolean) =>
    edit((now) => ({ ...now, heights: { ...now.heights, ...change } }), label, resting);
  const setPin = (index: number, change: Partial<Pin>, resting: boolean) =>
    // From the state at the time: a typed length is understood a moment after it was typed.
    edit(
      (now) => ({
        ...now,
        heights: {
          ...now.heights,
          pins: now.heights.pins.map((pin, at) => (at === index ? { ...pin, ...change } : pin)),
        },
      }),
      "pinned height",
      resting,
    );
  return (
    <>
      <h2>Heights</h2>
      <p className="intro">What the tones of the picture become, in millimetres.</p>
      <Choice
        label="Tones become"
        value={heights.mapping}
        options={[
          ["straight", "a slope"],
          ["chart", "pinned"],
          ["plateaus", "plateaus"],
        ]}
        help={
          heights.mapping === "straight"
            ? "From the backing to the full depth in a straight line."
            : heights.mapping === "chart"
              ? "Exactly the typed height at each pinned tone, a smooth curve between."
              : "Each tone its own flat height, or cut through; every spot takes the nearest."
        }
        onChange={(mapping) => {
          const pins = heights.pins.length ? heights.pins : firstPins(heights);
          const kept = mapping === "chart" ? pins.filter((pin) => pin.mm !== null) : pins;
          const enough = mapping === "chart" && kept.length < 2 ? firstPins(heights) : kept;
          set({ mapping, pins: mapping === "straight" ? heights.pins : enough }, "tones to heights", true);
        }}
      />
      {heights.mapping === "straight" ? (
        <>
          <Choice
            label="Stands high"
            value={heights.raised}
            options={[
              ["light", "Light tones"],
              ["dark", "Dark tones"],
            ]}
            onChange={(raised) => set({ raised }, "raised tones", true)}
          />
          <LengthField
            label="Relief depth"
            help="From the top of the backing to the highest point."
            value={heights.depth}
            range={[0.2, 20]}
            step={0.1}
            slider
            onChange={(depth, resting) => set({ depth }, "relief depth", resting)}
          />
        </>
      ) : (
        <>
          <div className="field d-flex gap-2 align-items-center">
            <button
              type="button"
              className="chip"
              aria-pressed={tool === "pick"}
              onClick={() => setTool(tool === "pick" ? "none" : "pick")}
            >
              pin a tone in the picture
            </button>
          </div>
          <ol className="pins" aria-label="Pinned tones">
            {heights.pins.map((pin, index) => {
              const gray = Math.round(pin.tone * 255);
              const name = `Tone ${mm(pin.tone, 3)}`;
              return (
                <li key={`${pin.tone}-${index}`}>
                  <span className="swatch" style={{ background: `rgb(${gray},${gray},${gray})` }} aria-hidden="true" />
                  {pin.mm === null ? (
                    <div className="field field-row pin-cut">
                      <span>{name}</span>
                      <span className="mono">cut through</span>
                    </div>
                  ) : (
                    <LengthField
                      label={name}
                      value={pin.mm ?? { mm: 1 }}
                      range={[0, 20]}
                      step={0.1}
                      onChange={(value, resting) => setPin(index, { mm: value }, resting)}
                    />
                  )}
                  <div className="pin-actions">
                    {heights.mapping === "plateaus" && (
                      <button
                        type="button"
                        className="btn btn-sm btn-link"
                        onClick={() => setPin(index, { mm: pin.mm === null ? { mm: 1 } : null }, true)}
                      >
                        {pin.mm === null ? "give it a height" : "cut through"}
                      </button>
                    )}
                    <button
                      type="button"
                      className="btn btn-sm btn-link"
                      disabled={heights.pins.length <= (heights.mapping === "chart" ? 2 : 1)}
                      onClick={() => set({ pins: heights.pins.filter((_, at) => at !== index) }, "unpin a tone", true)}
                    >
                      unpin
                    </button>
                  </div>
                </li>
              );
            })}
          </ol>
        </>
      )}
      <LengthField
        label="Backing"
        help="The solid thickness under the relief."
        value={heights.backing}
        range={[0, 10]}
        step={0.1}
        slider
        onChange={(backing, resting) => set({ backing }, "backing", resting)}
      />
      {heights.mapping !== "plateaus" && (
        <LengthField
          label="Smooth"
          value={heights.smooth}
          range={[0, 5]}
          step={0.05}
          slider
          onChange={(smooth, resting) => set({ smooth }, "smoothing", resting)}
        />
      )}
      {heights.mapping !== "plateaus" && heights.smooth.mm > 0 && (
        <Switch label="Keep edges" value={heights.keep_edges} onChange={(keep_edges) => set({ keep_edges }, "edges", true)} />
      )}
      {result?.transparent && (
        <Switch
          label="Cut through what is dropped"
          value={heights.cut_dropped}
          onChange={(cut_dropped) => set({ cut_dropped }, "cut through", true)}
        />
      )}
      {figures && (
        <FigureList>
          <Figure name="Lowest">{mm(figures.heights.lowest_mm, 3)} mm</Figure>
          <Figure name="Highest">{mm(figures.heights.highest_mm, 3)} mm</Figure>
          {figures.mesh.bodies > 1 && <Figure name="Separate parts">{figures.mesh.bodies}</Figure>}
        </FigureList>
      )}
      {heights.pins.length > 0 && heights.mapping !== "straight" && (
        <Button size="sm" variant="plain" onClick={() => set({ pins: firstPins(heights) }, "pins", true)}>
          Begin again with black and white
        </Button>
      )}
      <p className="coming mt-4">
        Shapes, lettering, frames, patterns and edge profiles will stand here. They are not built yet.
      </p>
    </>
  );
}
