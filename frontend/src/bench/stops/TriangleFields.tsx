import type { Figures, Triangles } from "../../api/client";
import { Button } from "../../shared/Button";
import { Choice } from "../../shared/Choice";
import { mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import { NumberField } from "../../shared/NumberField";
import { put, triangles } from "../at";
import type { PanelProps } from "./stop";

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
  const pitch = figures?.finish?.pitch_mm;
  const below = pitch ? `Detail below ${mm(pitch, 3)} mm` : "Detail";
  return `${below} that no line of the printer would show is averaged away first.`;
}

/** How closely the triangles follow the heights. */
export function TriangleFields({ recipe, figures, edit }: Pick<PanelProps, "recipe" | "figures" | "edit">) {
  const finish = recipe.triangles;
  const made = finish.detail !== "picture";
  const fine = figures?.finish;
  const limit = limitOf(finish);
  const limited = fine && figures?.quality === "full" && fine.within_mm > fine.wanted_mm * 1.0001;
  const set = (part: Partial<Triangles>, label: string, resting = true) => edit(put(triangles, part), label, resting);

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
      <h3 className="mt-4 mb-2">From the heights</h3>
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
    </>
  );
}
