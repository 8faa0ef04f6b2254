import { BoxGeometry, CylinderGeometry, SphereGeometry } from "three";
import { mergeVertices } from "three/examples/jsm/utils/BufferGeometryUtils.js";
import { expect, test } from "vitest";
import { creasesOf } from "./creases";

const ends = (found: ReturnType<typeof creasesOf>) => found?.getAttribute("position").count;

test("a box has its twelve edges", () => {
  expect(ends(creasesOf(new BoxGeometry(2, 2, 2)))).toBe(2 * 12);
});

test("a ball and what bends a little have none, and what is too large is not looked at", () => {
  const ball = mergeVertices(new SphereGeometry(1, 16, 8).deleteAttribute("uv").deleteAttribute("normal"));
  expect(ends(creasesOf(ball))).toBe(0);
  const eightSides = new CylinderGeometry(1, 1, 2, 8, 1, true).toNonIndexed();
  expect(ends(creasesOf(mergeVertices(eightSides.deleteAttribute("uv"))))).toBe(0);
  expect(creasesOf(new SphereGeometry(1, 600, 300))).toBeUndefined();
});
