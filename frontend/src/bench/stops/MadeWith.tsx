import { useQuery } from "@tanstack/react-query";
import { Form } from "react-bootstrap";
import { Link } from "react-router";
import { api, type Material, type Printer, type Recipe, take, takeAs } from "../../api/client";
import { Button } from "../../shared/Button";
import { mm } from "../../shared/format";
import { showError } from "../../shared/notices";
import type { OpenPiece } from "../usePiece";

interface Props {
  recipe: Recipe;
  edit: OpenPiece["edit"];
}

/** Which printer and material of the workshop the piece is made with. */
export function MadeWith({ recipe, edit }: Props) {
  const workshop = useQuery({ queryKey: ["workshop"], queryFn: () => take(api.GET("/api/workshop")) }).data;
  const { printer, material } = recipe.made_with;

  /** The core works out what lengths in lines and layers are worth then. */
  async function choose(next: { printer?: Printer; material?: Material }) {
    try {
      const made = await takeAs<Recipe>(api.POST("/api/recipe/at-hand", { body: { recipe, ...next } }));
      edit(() => made, next.printer ? "printer" : "material", true);
    } catch (error) {
      showError(error);
    }
  }

  const today = workshop?.printers.find(({ id }) => id === printer?.id);
  const changed = today && JSON.stringify(today) !== JSON.stringify(printer);
  const options = (kept: { id: string; name: string }[] | undefined, own: { id: string; name: string } | undefined) =>
    own && !kept?.some(({ id }) => id === own.id) ? [own, ...(kept ?? [])] : (kept ?? []);
  return (
    <section className="made-with" aria-label="Made with">
      <div className="field field-row">
        <label htmlFor="made-printer">Printer</label>
        <Form.Select
          id="made-printer"
          value={printer?.id}
          onChange={(event) => {
            const next = workshop?.printers.find(({ id }) => id === event.target.value);
            if (next) void choose({ printer: next });
          }}
        >
          {options(workshop?.printers, printer).map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Form.Select>
      </div>
      <div className="field-help mono">
        {mm(printer?.line_mm ?? 0.42)} mm lines, {mm(printer?.layer_mm ?? 0.12)} mm layers
      </div>
      {changed && (
        <p className="field-caution">
          The workshop has other figures for it by now.{" "}
          <Button size="sm" variant="plain" onClick={() => void choose({ printer: today })}>
            Take those
          </Button>
        </p>
      )}
      <div className="field field-row">
        <label htmlFor="made-material">Material</label>
        <Form.Select
          id="made-material"
          value={material?.id}
          onChange={(event) => {
            const next = workshop?.materials.find(({ id }) => id === event.target.value);
            if (next) void choose({ material: next });
          }}
        >
          {options(workshop?.materials, material as Material).map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Form.Select>
      </div>
      <Link to="/workshop" className="small">
        What is in the workshop
      </Link>
    </section>
  );
}
