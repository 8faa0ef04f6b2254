import { Spinner } from "react-bootstrap";
import { Figure, FigureList } from "../../../shared/Figure";
import { count, mm } from "../../../shared/format";
import { useBench } from "../../benchStore";
import { useDeviation } from "../../useDeviation";
import { type FinishContext, sides } from "./finishing";

/** What a step changed: its figures before and after, and how near the surface moved. */
export function Changed({ step, piece, recipe, resting, done, near = false }: FinishContext & { step: { id: string; enabled: boolean }; near?: boolean }) {
  const { look, setLook } = useBench();
  const figures = done.get(step.id);
  const away = useDeviation(piece, recipe, near && step.enabled && !figures?.error ? step.id : undefined, resting);
  if (!figures || figures.error) return null;
  const { before, after, said } = figures;
  const words = (name: string, was: string, is: string) => (
    <Figure name={name}>
      {was === is ? (
        is
      ) : (
        <>
          {was} → {is}
        </>
      )}
    </Figure>
  );
  const state = (mesh: typeof before) => (mesh.manifold ? "closed" : "open");
  return (
    <section aria-label="Before and after">
      {said.map((line) => (
        <p key={line} className="state-good">
          {line}
        </p>
      ))}
      <FigureList>
        {words("Triangles", count(before.triangles), count(after.triangles))}
        {words("Size, mm", sides(before.size_mm), sides(after.size_mm))}
        {words("Volume, cm³", mm(before.volume_mm3 / 1000, 3), mm(after.volume_mm3 / 1000, 3))}
        {words("Bodies", count(before.bodies), count(after.bodies))}
        {words("State", state(before), state(after))}
        {near && away.data && <Figure name="Moved at most">{mm(away.data.said.max_mm, 4)} mm</Figure>}
        {near && away.data && <Figure name="Moved, RMS">{mm(away.data.said.rms_mm, 5)} mm</Figure>}
      </FigureList>
      {near && away.isFetching && (
        <p className="quiet">
          <Spinner size="sm" className="me-2" />
          Measuring how near the surface moved
        </p>
      )}
      {near && away.data && (
        <button type="button" className="chip" aria-pressed={look === "deviation"} onClick={() => setLook(look === "deviation" ? "surface" : "deviation")}>
          show where
        </button>
      )}
    </section>
  );
}
