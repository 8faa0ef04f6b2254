import { expect, test } from "vitest";
import type { Recipe } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { art, buildUp, put, tones } from "../at";
import { isUntouched, STARTS } from ".";

const recipe = {
  begins: {
    art: {
      picture: { corrections: [] },
      backing: { mm: 1 },
      build_up: [{ ...FRESH.entries.picture, id: "picture" }],
    },
  },
} as unknown as Recipe;

const begun = (start: string) => STARTS.find(({ name }) => name === start)?.begin(recipe) ?? recipe;

test("only what is as it arrived is offered a start", () => {
  expect(isUntouched(recipe)).toBe(true);
  expect(isUntouched(put(tones, { raised: "dark" })(recipe))).toBe(false);
  for (const { begin } of STARTS) expect(isUntouched(begin(recipe))).toBe(false);
});

test("a cut-out is the shape alone", () => {
  const made = begun("cut-out");
  expect(art.read(made).backing.mm).toBe(0);
  expect(buildUp.read(made).map(({ kind, enabled }) => [kind, enabled])).toEqual([
    ["picture", false],
    ["traced", true],
  ]);
  expect(new Set(buildUp.read(made).map(({ id }) => id)).size).toBe(2);
});

test("a light panel is thickest where it is dark, and its rim as thick", () => {
  const made = begun("light panel");
  expect(tones.read(made).mapping).toBe("light");
  expect(tones.read(made).depth.mm).toBe(2.4);
  expect(buildUp.read(made)[1]).toMatchObject({ kind: "frame", height: { mm: 2.4 } });
});
