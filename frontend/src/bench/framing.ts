import { type Box3, type PerspectiveCamera, Vector3 } from "three";

/** A piece that takes less of the view than this is lost in it. */
const LEAST_SHARE = 0.1;

function cornersOf({ min, max }: Box3): Vector3[] {
  return Array.from({ length: 8 }, (_, corner) => new Vector3(corner & 1 ? max.x : min.x, corner & 2 ? max.y : min.y, corner & 4 ? max.z : min.z));
}

/** The distance at which the whole box, rulers included, is inside the view. */
export function fit(camera: PerspectiveCamera, box: Box3, target: Vector3, eye: Vector3, aspect: number) {
  const half = Math.tan((camera.fov * Math.PI) / 360);
  const right = new Vector3().setFromMatrixColumn(camera.matrixWorld, 0);
  const up = new Vector3().setFromMatrixColumn(camera.matrixWorld, 1);
  const longest = Math.max(box.max.x - box.min.x, box.max.y - box.min.y);
  const room = box.clone();
  room.min.y -= longest * 0.12;
  room.max.x += longest * 0.2;
  let distance = 1;
  for (const point of cornersOf(room)) {
    point.sub(target);
    const towards = point.dot(eye);
    distance = Math.max(distance, towards + (Math.abs(point.dot(up)) * 1.12) / half, towards + (Math.abs(point.dot(right)) * 1.03) / (half * aspect));
  }
  return distance;
}

/** Whether all of a box is in the view, and how much it takes of the width or the height, whichever is more. */
export function seenAs(camera: PerspectiveCamera, box: Box3): { whole: boolean; share: number } {
  const places = cornersOf(box).map((corner) => corner.project(camera));
  const whole = places.every(({ x, y, z }) => Math.abs(x) <= 1 && Math.abs(y) <= 1 && z < 1);
  const along = (axis: "x" | "y") => Math.max(...places.map((place) => place[axis])) - Math.min(...places.map((place) => place[axis]));
  return { whole, share: Math.max(along("x"), along("y")) / 2 };
}

/** Whether what was seen before is not, or hardly, since it has another size. */
export function isLost(camera: PerspectiveCamera, before: Box3, now: Box3): boolean {
  const [was, is] = [seenAs(camera, before), seenAs(camera, now)];
  return (was.whole && !is.whole) || (was.share >= LEAST_SHARE && is.share < LEAST_SHARE);
}
