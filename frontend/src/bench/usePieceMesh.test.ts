import { BufferGeometry } from "three";
import { expect, test } from "vitest";
import type { Figures, Recipe } from "../api/client";
import { better, type ShownMesh } from "./usePieceMesh";

const made = (recipe: Recipe, quality: Figures["quality"]): ShownMesh => ({
  recipe,
  geometry: new BufferGeometry(),
  figures: { quality } as Figures,
  timing: { asked: 0, server: 0, received: 0 },
});
const [before, wanted] = [{}, {}] as Recipe[];

test("no draft takes the place of the full mesh of what is wanted", () => {
  const full = made(wanted, "full");
  expect(better(full, made(wanted, "draft"), wanted)).toBe(full);
  expect(better(full, made(before, "draft"), wanted)).toBe(full);
});

test("a draft takes the place of whatever is of another recipe", () => {
  const draft = made(wanted, "draft");
  for (const now of [undefined, made(before, "full"), made(before, "draft")]) expect(better(now, draft, wanted)).toBe(draft);
});
