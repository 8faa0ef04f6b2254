import type { Figures, Recipe } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { Figure, FigureList } from "../../shared/Figure";
import { count, mm } from "../../shared/format";
import { passing } from "../../shared/passing";
import { finishSteps, hasHeights } from "../at";
import { BeyondBed } from "../BeyondBed";
import { FINISH } from "../steps/finish";
import { waits } from "../steps/finish/finishing";
import { StepList } from "../steps/StepList";
import type { Remark } from "../steps/kinds";
import { MadeWith } from "./MadeWith";
import type { PanelProps, Stop, Told, TrailProps } from "./stop";
import { TriangleFields } from "./TriangleFields";

const MB_PER_TRIANGLE = 50e-6;

function FinishPanel({ piece, recipe, figures, edit, resting }: PanelProps) {
  const waiting = new Set(recipe.finish.filter(waits).map(({ id }) => id));
  const done = new Map(figures?.steps.map((step) => [step.step_id, step]));
  const remarks = new Map(
    figures?.steps.flatMap(({ step_id, error }): [string, Remark][] => (error && !waiting.has(step_id) ? [[step_id, { error, refused: true }]] : [])),
  );
  const heights = hasHeights(recipe);
  return (
    <>
      <h2>Finish</h2>
      <p className="intro">What is done to the mesh, in order. Every step stays open.</p>
      <StepList
        title="Finish steps"
        what="finish steps"
        one="finish"
        list="finish"
        kinds={FINISH}
        fresh={FRESH.finish}
        place={finishSteps}
        recipe={recipe}
        context={{ piece, recipe, resting, done, figures }}
        remarks={remarks}
        edit={edit}
        empty={heights ? "None yet: the triangles follow the heights." : "None yet: the mesh is as it came."}
      />
      {figures?.beyond_bed_mm && <BeyondBed figures={figures} recipe={recipe} edit={edit} />}
      {heights && <TriangleFields recipe={recipe} figures={figures} edit={edit} />}
      <MadeWith recipe={recipe} edit={edit} />
      {figures && <MeshFigures figures={figures} />}
    </>
  );
}

function MeshFigures({ figures }: { figures: Figures }) {
  const { mesh, view } = figures;
  return (
    <FigureList>
      <Figure name="Quality">{figures.quality}</Figure>
      <Figure name="Triangles">{count(mesh.triangles)}</Figure>
      {view && <Figure name="Drawn here">{view.finish ? `${count(view.triangles)}, within ${mm(view.finish.within_mm, 3)} mm` : count(view.triangles)}</Figure>}
      <Figure name="Binary STL">{mm(mesh.triangles * MB_PER_TRIANGLE)} MB</Figure>
      <Figure name="Vertices">{count(mesh.vertices)}</Figure>
      <Figure name="Size">{mesh.size_mm.map((side) => mm(side)).join(" × ")} mm</Figure>
      <Figure name="Volume">{mm(mesh.volume_mm3 / 1000)} cm³</Figure>
      <Figure name="Weight, solid">{mm(mesh.weight_g, 1)} g</Figure>
      <Figure name="Surface">{mm(mesh.area_mm2 / 100)} cm²</Figure>
      <Figure name="Closed">{mesh.closed ? "yes" : "no"}</Figure>
      <Figure name="Manifold">{mesh.manifold ? "yes" : "no"}</Figure>
    </FigureList>
  );
}

/** Which detail, and what it means in mm. */
function finishWords({ triangles }: Recipe, { finish: fine }: Figures): string {
  if (!fine) return "closed";
  const within = `${mm(fine.within_mm, 3)} mm`;
  if (fine.within_mm > fine.wanted_mm * 1.0001) return `closed, limited to ${within}`;
  return triangles.detail === "picture" ? `closed, within ${within}` : `closed, as made, within ${within}`;
}

function useTold({ recipe, figures, mesh }: TrailProps): Told {
  if (mesh.problem) return { figure: "stale", state: passing(mesh.problem) ? "waits for the server" : "could not be made", tone: "wrong" };
  if (!figures) return { figure: "…", state: "working", tone: "quiet" };
  if (mesh.drafting.off) return { figure: "stale", state: "draft called off", tone: "quiet" };
  const figure = `${count(figures.mesh.triangles)} triangles`;
  if (figures.quality !== "full") return { figure, state: mesh.calledOff ? "draft, called off" : "draft", tone: "quiet" };
  const waiting = recipe.finish.filter(waits);
  const refused = figures.steps.filter((step) => step.error && !waiting.some(({ id }) => id === step.step_id)).length;
  if (refused) return { figure, state: `${refused} step${refused === 1 ? "" : "s"} not done`, tone: "wrong" };
  if (!figures.mesh.manifold) return { figure, state: "open", tone: "wrong" };
  if (figures.beyond_bed_mm) return { figure, state: "closed, larger than the bed", tone: "caution" };
  if (waiting.length) return { figure, state: "closed, a step waits", tone: "quiet" };
  const steps = figures.steps.length;
  return { figure, state: steps ? `closed, ${steps} step${steps === 1 ? "" : "s"}` : finishWords(recipe, figures), tone: "good" };
}

export const finish: Stop = { id: "finish", name: "Finish", Panel: FinishPanel, useTold };
