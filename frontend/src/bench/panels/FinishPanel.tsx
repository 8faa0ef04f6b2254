import { Figure, FigureList } from "../../shared/Figure";
import { count, mm } from "../../shared/format";
import { LengthField } from "../../shared/LengthField";
import { MadeWith } from "./MadeWith";
import type { PanelProps } from "./PanelProps";

export function FinishPanel({ recipe, figures, edit }: PanelProps) {
  const tolerance = recipe.finish?.tolerance ?? { mm: 0.01 };
  return (
    <>
      <h2>Finish</h2>
      <p className="intro">How closely the triangles follow the heights.</p>
      <LengthField
        label="Tolerance"
        help="No pixel is further from the mesh than this. Larger means fewer triangles."
        value={tolerance}
        range={[0.002, 0.2]}
        step={0.002}
        slider
        onChange={(value, resting) =>
          edit((now) => ({ ...now, finish: { ...now.finish, tolerance: value } }), "tolerance", resting)
        }
      />
      <MadeWith recipe={recipe} edit={edit} />
      {figures && (
        <FigureList>
          <Figure name="Quality">{figures.quality}</Figure>
          <Figure name="Triangles">{count(figures.mesh.triangles)}</Figure>
          <Figure name="Vertices">{count(figures.mesh.vertices)}</Figure>
          <Figure name="Size">{figures.mesh.size_mm.map((side) => mm(side)).join(" × ")} mm</Figure>
          <Figure name="Volume">{mm(figures.mesh.volume_mm3 / 1000)} cm³</Figure>
          <Figure name="Weight, solid">
            {mm((figures.mesh.volume_mm3 / 1000) * (recipe.material?.density_g_cm3 ?? 1.24), 1)} g
          </Figure>
          <Figure name="Surface">{mm(figures.mesh.area_mm2 / 100)} cm²</Figure>
          <Figure name="Closed">{figures.mesh.closed ? "yes" : "no"}</Figure>
          <Figure name="Manifold">{figures.mesh.manifold ? "yes" : "no"}</Figure>
        </FigureList>
      )}
      <p className="coming mt-4">
        Smoothing, a triangle limit, trimming and repair will stand here. They are not built yet.
      </p>
    </>
  );
}
