import { BufferAttribute, BufferGeometry } from "three";

/** Not sought in more triangles than this: it would be felt. */
const MOST_TRIANGLES = 250_000;

/**
 * The lines along which a surface bends sharply, two ends each; nothing where it is too large.
 *
 * Along a crease its vertices are there twice, so an edge there is the edge of one triangle alone.
 */
export function creasesOf(geometry: BufferGeometry): BufferGeometry | undefined {
  const { index } = geometry;
  const position = geometry.getAttribute("position");
  if (!index || !position || index.count > 3 * MOST_TRIANGLES) return undefined;
  const corners = index.array;
  const many = position.count;
  const alone = new Set<number>();
  for (let k = 0; k < corners.length; k++) {
    const [from, to] = [corners[k] as number, corners[k % 3 === 2 ? k - 2 : k + 1] as number];
    if (!alone.delete(to * many + from)) alone.add(from * many + to);
  }
  const places = new Float32Array(alone.size * 6);
  let at = 0;
  for (const edge of alone)
    for (const end of [Math.floor(edge / many), edge % many]) {
      places.set([position.getX(end), position.getY(end), position.getZ(end)], at);
      at += 3;
    }
  return new BufferGeometry().setAttribute("position", new BufferAttribute(places, 3));
}
