import { BoxGeometry, SphereGeometry } from "three";
import { mergeVertices } from "three/examples/jsm/utils/BufferGeometryUtils.js";
import { expect, test } from "vitest";
import { creasesOf } from "./creases";

test("a box has its twelve edges, from both sides", () => {
  const found = creasesOf(new BoxGeometry(2, 2, 2));
  expect(found?.getAttribute("position").count).toBe(2 * 24);
});

test("a ball has none, and what is too large is not looked at", () => {
  const ball = mergeVertices(new SphereGeometry(1, 16, 8).deleteAttribute("uv").deleteAttribute("normal"));
  expect(creasesOf(ball)?.getAttribute("position").count).toBe(0);
  expect(creasesOf(new SphereGeometry(1, 600, 300))).toBeUndefined();
});
