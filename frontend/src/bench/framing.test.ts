import { Box3, PerspectiveCamera, Vector3 } from "three";
import { expect, test } from "vitest";
import { fit, isLost, seenAs } from "./framing";

const box = (side: number) => new Box3(new Vector3(-side, -side, -side), new Vector3(side, side, side));

function looking(at: Box3): PerspectiveCamera {
  const camera = new PerspectiveCamera(35, 1.5, 0.1, 1e5);
  const [target, eye] = [at.getCenter(new Vector3()), new Vector3(1, -2, 1).normalize()];
  camera.up.set(0, 0, 1);
  camera.position.copy(target).addScaledVector(eye, 100);
  camera.lookAt(target);
  camera.updateMatrixWorld();
  camera.position.copy(target).addScaledVector(eye, fit(camera, at, target, eye, 1.5));
  camera.updateMatrixWorld();
  return camera;
}

test("what fits is whole and takes most of the view", () => {
  const { whole, share } = seenAs(looking(box(20)), box(20));
  expect(whole).toBe(true);
  expect(share).toBeGreaterThan(0.5);
});

test("a piece is lost where it leaves the view or becomes a dot, and not where one looks closely", () => {
  const camera = looking(box(20));
  expect(isLost(camera, box(20), box(21))).toBe(false);
  expect(isLost(camera, box(20), box(200))).toBe(true);
  expect(isLost(camera, box(20), box(0.5))).toBe(true);
  expect(isLost(camera, box(20), box(8))).toBe(false);
  expect(isLost(camera, box(0.5), box(0.4))).toBe(false);
  // A corner that was looked at stays where it is.
  expect(isLost(camera, box(100), box(120))).toBe(false);
});
