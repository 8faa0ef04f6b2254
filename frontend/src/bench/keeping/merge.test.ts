import { expect, test } from "vitest";
import { merge, same } from "./merge";

const base = {
  schema_version: 1,
  heights: { depth: { mm: 3 }, backing: { mm: 1, text: "1 mm" }, mirror: false },
  steps: [
    { id: "a", kind: "crop", wide: 10 },
    { id: "b", kind: "levels", black: 0 },
    { id: "c", kind: "smooth", radius: { mm: 1 } },
  ],
  form: { kind: "panel" },
};

test("what each side changed is in it", () => {
  const mine = { ...base, heights: { ...base.heights, depth: { mm: 5, text: "5 mm" } } };
  const theirs = { ...base, heights: { ...base.heights, mirror: true } };
  expect(merge<object>(base, mine, theirs)).toEqual({
    ...base,
    heights: { depth: { mm: 5, text: "5 mm" }, backing: { mm: 1, text: "1 mm" }, mirror: true },
  });
});

test("a length is one thing, and mine where both changed it", () => {
  const mine = { heights: { depth: { mm: 5 } } };
  const theirs = { heights: { depth: { mm: 8, text: "8 mm" } } };
  expect(merge<object>({ heights: { depth: { mm: 3 } } }, mine, theirs)).toEqual(mine);
});

test("steps are merged by their ids", () => {
  const [a, b, c] = base.steps;
  const mine = { steps: [a, { id: "m", kind: "invert" }, { ...b, black: 0.2 }, c] };
  const theirs = { steps: [{ ...a, wide: 20 }, b, { id: "t", kind: "tile" }] };
  expect(merge<object>({ steps: base.steps }, mine, theirs)).toEqual({
    steps: [
      { ...a, wide: 20 },
      { id: "m", kind: "invert" },
      { ...b, black: 0.2 },
      { id: "t", kind: "tile" },
    ],
  });
});

test("an order changed on either side is kept", () => {
  const [a, b, c] = base.steps;
  const order = (mine: object[], theirs: object[]) => merge<object[]>(base.steps, mine, theirs).map((step) => (step as { id: string }).id);
  expect(order([c, a, b], [a, b, { ...c, radius: { mm: 2 } }])).toEqual(["c", "a", "b"]);
  expect(order([a, { ...b, black: 1 }, c], [c, b, a])).toEqual(["c", "b", "a"]);
});

test("taken away on one side and changed on the other, a step stays", () => {
  const [a, b] = base.steps;
  expect(merge<object[]>([a, b], [a], [a, { ...b, black: 0.5 }])).toEqual([a, { ...b, black: 0.5 }]);
  expect(merge<object[]>([a, b], [{ ...a, wide: 1 }], [a, b])).toEqual([{ ...a, wide: 1 }]);
});

test("a form that became another kind is taken whole", () => {
  const mine = { kind: "arc", bend: 90 };
  const theirs = { kind: "globe", opening: { mm: 20 } };
  expect(merge<object>({ kind: "panel" }, mine, theirs)).toEqual(mine);
});

test("the order of fields means nothing", () => {
  expect(same({ a: 1, b: [1, { c: 2 }] }, { b: [1, { c: 2 }], a: 1 })).toBe(true);
  expect(same({ a: 1 }, { a: 1, b: undefined })).toBe(false);
  expect(same([1, 2], [2, 1])).toBe(false);
});
