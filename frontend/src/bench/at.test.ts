import { FRESH } from "../api/fresh";
import { expect, test } from "vitest";
import type { Recipe } from "../api/client";
import { art, change, corrections, form, formKind, put, relief, tones } from "./at";

const recipe = {
  schema_version: 2,
  begins: {
    kind: "relief",
    art: {
      picture: { file: { sha256: "0", filename: "a.png" }, corrections: [] },
      backing: { mm: 1 },
      build_up: [
        { kind: "frame", id: "rim" },
        { kind: "picture", id: "picture", depth: { mm: 3 } },
      ],
      edge: { kind: "rectangle" },
    },
    form: { kind: "panel" },
  },
} as unknown as Recipe;

test("a change is made where it belongs, and nowhere else", () => {
  const next = put(tones, { depth: { mm: 5 } })(recipe);
  expect(tones.read(next).depth.mm).toBe(5);
  expect(tones.read(recipe).depth.mm).toBe(3);
  expect(relief.read(next).art.build_up[0]).toBe(relief.read(recipe).art.build_up[0]);
  expect(relief.read(next).art.picture).toBe(relief.read(recipe).art.picture);
});

test("a change is made to what is there by then", () => {
  const add = change(corrections, (list) => [...list, { kind: "invert" as const, id: String(list.length), name: "", enabled: true }]);
  expect(corrections.read(add(add(recipe))).map((step) => step.id)).toEqual(["0", "1"]);
});

test("a panel with a round edge is called a disc", () => {
  expect(formKind(recipe)).toBe("panel");
  const round = put(art, { edge: { ...FRESH.edge, kind: "round" } })(recipe);
  expect([formKind(round), form.read(round).kind]).toEqual(["disc", "panel"]);
});
