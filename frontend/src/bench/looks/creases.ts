import { BufferAttribute, BufferGeometry, Vector3 } from "three";

/** Not sought in more triangles than this: it would be felt. */
const MOST_TRIANGLES = 250_000;
/** The cosine between its two sides, below which a crease is drawn: a fine relief is full of lesser ones. */
const SHARP = Math.cos((55 * Math.PI) / 180);

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
  const alone = new Map<number, number>();
  for (let k = 0; k < corners.length; k++) {
    const [from, to] = [corners[k] as number, corners[k % 3 === 2 ? k - 2 : k + 1] as number];
    if (!alone.delete(to * many + from)) alone.set(from * many + to, k - (k % 3));
  }
  const at = (corner: number) => new Vector3().fromBufferAttribute(position, corner);
  const outwards = (triangle: number) => {
    const [a, b, c] = [0, 1, 2].map((k) => at(corners[triangle + k] as number)) as [Vector3, Vector3, Vector3];
    return b.sub(a).cross(c.sub(a)).normalize();
  };
  // Both sides of a crease have the same middle.
  const sides = new Map<string, Vector3>();
  const places: number[] = [];
  for (const [edge, triangle] of alone) {
    const [from, to] = [at(Math.floor(edge / many)), at(edge % many)];
    const middle = [from.x + to.x, from.y + to.y, from.z + to.z].map(Math.fround).join();
    const [one, other] = [outwards(triangle), sides.get(middle)];
    if (!other) sides.set(middle, one);
    else if (one.dot(other) < SHARP) places.push(...from.toArray(), ...to.toArray());
  }
  return new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(places), 3));
}
