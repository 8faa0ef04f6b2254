import type { Figures, Recipe, Triangles } from "../../api/client";
import { Button } from "../../shared/Button";
import { Choice } from "../../shared/Choice";
import { Figure, FigureList } from "../../shared/Figure";
import { count, mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import { NumberField } from "../../shared/NumberField";
import { put, triangles } from "../at";
import { passing } from "../../shared/passing";
import { MadeWith } from "./MadeWith";
import type { PanelProps, Stop, Told, TrailProps } from "./stop";

const DETAILS = [
  ["made", "as fine as it can be made"],
  ["picture", "exactly as in the picture"],
] as const;
const METHODS = [
  ["quick", "quick"],
  ["auto", "few triangles"],
  ["fewest", "fewest"],
] as const;
/** Only of pieces that were made with it. */
const AS_BEFORE = [...METHODS, ["greedy", "inserted"]] as const;
const LIMITS = [
  ["none", "none"],
  ["triangles", "triangles"],
  ["size", "file size"],
] as const;
type Limit = (typeof LIMITS)[number][0];

const MB_PER_TRIANGLE = 50e-6;
const round = (number: number) => Number(number.toPrecision(2));

const limitOf = ({ most_triangles, most_mb }: Triangles): Limit => (most_triangles ? "triangles" : most_mb ? "size" : "none");

/** What the two kinds of detail mean for this piece. */
function meaning(finish: Triangles, figures: Figures | undefined): string {
  if (finish.detail === "picture") return "Every pixel counts, whatever the machine can show of it.";
  const pitch = figures?.finish.pitch_mm;
  const below = pitch ? `Detail below ${mm(pitch, 3)} mm` : "Detail";
  return `${below} that no line of the printer would show is averaged away first.`;
}

function FinishPanel({ recipe, figures, edit }: PanelProps) {
  const finish = recipe.triangles;
  const made = finish.detail !== "picture";
  const fine = figures?.finish;
  const limit = limitOf(finish);
  const limited = fine && figures.quality === "full" && fine.within_mm > fine.wanted_mm * 1.0001;
  const set = (part: Partial<Triangles>, label: string, resting = true) =>
    edit(put(triangles, part), label, resting);

  function choose(kind: Limit) {
    const now = figures?.mesh.triangles ?? 400_000;
    set(
      {
        most_triangles: kind === "triangles" ? Math.max(100, round(now / 2)) : null,
        most_mb: kind === "size" ? Math.max(0.01, round((now * MB_PER_TRIANGLE) / 2)) : null,
      },
      "limit",
    );
  }

  return (
    <>
      <h2>Finish</h2>
      <p className="intro">How closely the triangles follow the heights.</p>
      <Choice
        label="Detail"
        value={finish.detail}
        options={DETAILS}
        help={meaning(finish, figures)}
        onChange={(detail) => set({ detail, ...(detail === "picture" ? { pitch: null } : {}), tolerance: null }, "detail")}
      />
      <LengthField
        label="Tolerance"
        help={
          made && !finish.tolerance
            ? "A twelfth of a layer. No pixel of what is left is further from the mesh than this."
            : "No pixel is further from the mesh than this. Larger means fewer triangles."
        }
        value={finish.tolerance ?? { mm: fine?.wanted_mm ?? 0.01 }}
        range={[0.002, 0.2]}
        step={0.002}
        slider
        onChange={(tolerance, resting) => set({ tolerance }, "tolerance", resting)}
      />
      {made && (
        <LengthField
          label="Pitch"
          help={finish.pitch ? "How far apart heights are kept." : "An eighth of a line; half a layer up what stands."}
          value={finish.pitch ?? { mm: fine?.pitch_mm ?? 0.05 }}
          range={[0.01, 1]}
          step={0.01}
          onChange={(pitch, resting) => set({ pitch }, "pitch", resting)}
        />
      )}
      {made && (finish.tolerance || finish.pitch) && (
        <Button size="sm" variant="plain" onClick={() => set({ tolerance: null, pitch: null }, "detail")}>
          As the printer asks
        </Button>
      )}
      <Choice label="Limit" value={limit} options={LIMITS} onChange={choose} />
      {finish.most_triangles && (
        <NumberField
          label="Most triangles"
          value={finish.most_triangles}
          range={[100, 20_000_000]}
          step={10_000}
          slider={false}
          onChange={(most, resting) => set({ most_triangles: Math.round(most) }, "limit", resting)}
        />
      )}
      {finish.most_mb && (
        <NumberField
          label="Largest STL"
          unit="MB"
          value={finish.most_mb}
          range={[0.01, 1000]}
          step={1}
          slider={false}
          onChange={(most_mb, resting) => set({ most_mb }, "limit", resting)}
        />
      )}
      {limited && (
        <p className="state-caution" role="status">
          The limit costs detail: within {mm(fine.within_mm, 3)} mm instead of {mm(fine.wanted_mm, 3)} mm.
        </p>
      )}
      <Choice
        label="Triangulation"
        value={finish.method}
        options={finish.method === "greedy" ? AS_BEFORE : METHODS}
        help={
          finish.method === "greedy"
            ? "Inserted one by one, as this piece was first made. Few triangles are fewer and sooner there."
            : "Quick takes about twice as many triangles. The tolerance holds for all."
        }
        onChange={(method) => set({ method }, "triangulation")}
      />
      <MadeWith recipe={recipe} edit={edit} />
      {figures && <MeshFigures figures={figures} />}
      <p className="coming mt-4">Smoothing, trimming and repair will stand here. They are not built yet.</p>
    </>
  );
}

function MeshFigures({ figures }: { figures: Figures }) {
  const { mesh, view } = figures;
  return (
    <FigureList>
      <Figure name="Quality">{figures.quality}</Figure>
      <Figure name="Triangles">{count(mesh.triangles)}</Figure>
      {view && <Figure name="Drawn here">{`${count(view.triangles)}, within ${mm(view.finish.within_mm, 3)} mm`}</Figure>}
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
  const within = `${mm(fine.within_mm, 3)} mm`;
  if (fine.within_mm > fine.wanted_mm * 1.0001) return `closed, limited to ${within}`;
  return triangles.detail === "picture" ? `closed, within ${within}` : `closed, as made, within ${within}`;
}

function useTold({ recipe, figures, mesh }: TrailProps): Told {
  if (mesh.problem) return { figure: "stale", state: passing(mesh.problem) ? "waits for the server" : "could not be made", tone: "wrong" };
  if (!figures) return { figure: "…", state: "working", tone: "quiet" };
  const figure = `${count(figures.mesh.triangles)} triangles`;
  if (figures.quality !== "full") return { figure, state: mesh.calledOff ? "draft, called off" : "draft", tone: "quiet" };
  return figures.mesh.manifold ? { figure, state: finishWords(recipe, figures), tone: "good" } : { figure, state: "open", tone: "wrong" };
}

export const finish: Stop = { id: "finish", name: "Finish", Panel: FinishPanel, useTold };
