import type { Figures, Light } from "../../api/client";
import { Button } from "../../shared/Button";
import { Choice } from "../../shared/Choice";
import { Figure, FigureList } from "../../shared/Figure";
import { copyText } from "../../shared/copyText";
import { mm } from "../../shared/format";
import { NumberField } from "../../shared/NumberField";
import { useNotices } from "../../shared/notices";
import { SaveButton } from "../../shared/SaveButton";
import { light as lightAt, put, tones } from "../at";
import { useBench } from "../benchStore";
import { useLight } from "../light/useLight";
import { AsMade } from "./AsMade";
import { MadeWith } from "./MadeWith";
import { type HeightsPanel, type HeightsTrail, ofHeights, type PanelProps, type Stop, type Told, type TrailProps } from "./stop";

/** What will be seen before a lamp, and what the print needs for it. */
function LightPanel({ piece, recipe, edit, settle }: HeightsPanel) {
  const { look, setLook } = useBench();
  const show = useNotices((state) => state.show);
  const found = useLight(recipe, true);
  const { light } = recipe.proof;
  const set = (part: Partial<Light>, label: string, resting: boolean) => edit(put(lightAt, part), label, resting);

  async function copy(lines: string[]) {
    const copied = await copyText(lines.join("\n"));
    show(
      copied
        ? { tone: "plain", title: "The advice was copied" }
        : { tone: "error", title: "The advice was not copied", text: "The browser does not allow it here. Select the lines and copy them." },
    );
  }

  return (
    <>
      <h3 className="mt-4">Before a lamp</h3>
      <p className="field-help">What a lamp behind the piece will show, before material is spent.</p>
      <div className="field d-flex gap-2 flex-wrap">
        <button type="button" className="chip" aria-pressed={look === "lit"} onClick={() => setLook(look === "lit" ? "surface" : "lit")}>
          hold it before the lamp
        </button>
        <button type="button" className="chip" aria-pressed={look === "difference"} onClick={() => setLook(look === "difference" ? "surface" : "difference")}>
          difference
        </button>
      </div>
      <NumberField
        label="Lamp"
        value={light.lamp}
        range={[0.2, 4]}
        step={0.05}
        help="1 shows the thinnest spot as white."
        onChange={(lamp, resting) => set({ lamp }, "lamp", resting)}
      />
      <Choice
        label="Printed"
        value={light.printed}
        options={[
          ["ideal", "as computed"],
          ["lying", "lying"],
          ["standing", "standing"],
        ]}
        help={
          light.printed === "lying"
            ? "Thickness grows in whole layers: they show as bands."
            : light.printed === "standing"
              ? "Thickness grows in whole nozzle lines."
              : "Without the steps of a print."
        }
        onChange={(printed) => set({ printed }, "way of printing", true)}
      />
      {found && (
        <>
          <FigureList>
            <Figure name="Off, as computed">{mm(found.error.ideal * 100, 1)} %</Figure>
            <Figure name="Off, printed lying">{mm(found.error.lying * 100, 1)} %</Figure>
            <Figure name="Off, printed standing">{mm(found.error.standing * 100, 1)} %</Figure>
            <Figure name="Steps of light, lying">{found.steps.lying}</Figure>
            <Figure name="Steps of light, standing">{found.steps.standing}</Figure>
            <Figure name="Shown exactly">{mm(found.carried * 100, 0)} %</Figure>
          </FigureList>
          {found.carried < 0.6 && (
            <p className="field-caution">
              Much of the picture is darker than {recipe.made_with.material.name} can show between these bounds. A larger thickest, or levels in the picture,
              would carry more of it.
            </p>
          )}
        </>
      )}
      {found && (
        <section aria-label="Advice for the print">
          <div className="ordered-head">
            <h3>For the print</h3>
            <Button size="sm" variant="plain" onClick={() => void copy(found.advice)}>
              Copy
            </Button>
          </div>
          <ul className="advice">
            {found.advice.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </section>
      )}
      <SaveButton size="sm" piece={piece} product="lit.png" settle={settle}>
        Save the lit picture
      </SaveButton>
    </>
  );
}

/** What can be said of any piece before it is made. */
function MadePanel(props: PanelProps) {
  return (
    <>
      <h2>Proof</h2>
      <p className="intro">What comes off the bed, before material is spent.</p>
      <AsMade {...props} />
      <MadeWith recipe={props.recipe} edit={props.edit} />
    </>
  );
}

/** The same of heights, and what a lamp behind them shows. */
function ProofPanel(props: HeightsPanel) {
  return (
    <>
      <MadePanel {...(props as unknown as PanelProps)} />
      <LightPanel {...props} />
    </>
  );
}

/** Whether it fits, where the figures are known. */
function fits(figures: Figures | undefined): Told {
  if (!figures) return { figure: "…", state: "working", tone: "quiet" };
  const figure = `${figures.mesh.size_mm.map((side) => mm(side, 0)).join(" × ")} mm`;
  if (figures.beyond_bed_mm) return { figure, state: "larger than the bed", tone: "caution" };
  return { figure, state: "fits the bed", tone: "quiet" };
}

const WORDS = { ideal: "as computed", lying: "printed lying", standing: "printed standing" };

function useLightTold({ recipe, figures }: HeightsTrail): Told {
  const lit = tones.read(recipe).mapping === "light";
  const light = useLight(recipe, lit);
  const { printed } = lightAt.read(recipe);
  if (!lit || figures?.beyond_bed_mm) return fits(figures as Figures | undefined);
  if (!light) return { figure: "light", state: "not looked at yet", tone: "quiet" };
  return { figure: `light within ${mm(light.error[printed] * 100, 1)} %`, state: WORDS[printed], tone: "quiet" };
}

export const proof = ofHeights({ id: "proof", name: "Proof", Panel: ProofPanel, useTold: useLightTold, light: true });

/** Of what has no heights. */
export const madeProof: Stop = { id: "proof", name: "Proof", Panel: MadePanel, useTold: ({ figures }: TrailProps) => fits(figures) };
