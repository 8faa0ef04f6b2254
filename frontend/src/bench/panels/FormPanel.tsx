import { Figure, FigureList } from "../../shared/Figure";
import { mm } from "../../shared/format";
import type { PanelProps } from "./PanelProps";

export function FormPanel({ figures }: PanelProps) {
  return (
    <>
      <h2>Form</h2>
      <p className="intro">What the heights are laid on. This piece is a flat panel.</p>
      {figures && (
        <FigureList>
          <Figure name="Form">{figures.form.kind}</Figure>
          <Figure name="Width">{mm(figures.mesh.size_mm[0], 3)} mm</Figure>
          <Figure name="Height">{mm(figures.mesh.size_mm[1], 3)} mm</Figure>
          <Figure name="Thickness">{mm(figures.mesh.size_mm[2], 3)} mm</Figure>
        </FigureList>
      )}
      <p className="coming mt-4">
        Arc, tube, globe, disc and laying it on a body will be chosen here. They are not built yet.
      </p>
    </>
  );
}
