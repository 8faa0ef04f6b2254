import { BufferGeometry } from "three";
import { expect, test } from "vitest";
import type { Figures, Recipe } from "../api/client";
import { better, said, type ShownMesh } from "./usePieceMesh";

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

test("figures belong to the recipe on the screen, or follow it, or are of another kind", () => {
  const relief = { begins: { kind: "relief" }, proof: {} } as Recipe;
  const same = JSON.parse(JSON.stringify(relief)) as Recipe;
  const figure = { begins: { kind: "figure" } } as Recipe;
  const shown = made(relief, "full");
  expect(said(undefined, relief)).toEqual({ figures: undefined, follows: true });
  expect(said(shown, relief)).toEqual({ figures: shown.figures, follows: false });
  expect(said(shown, same)).toEqual({ figures: shown.figures, follows: false });
  expect(said(shown, { ...relief, finish: [] } as unknown as Recipe)).toEqual({ figures: shown.figures, follows: true });
  expect(said(shown, figure)).toEqual({ figures: undefined, follows: true });
});
