import { describe, expect, test } from "vitest";
import { type Box, boxLimits, moveBox, pullBox, typeBox } from "./crop";

const old: Box = { x: 100, y: 80, wide: 120, tall: 80 };
const room = { cols: 400, rows: 300 };
const SIDES = ["n", "ne", "e", "se", "s", "sw", "w", "nw"];
const edges = (box: Box) => ({ n: box.y, s: box.y + box.tall, w: box.x, e: box.x + box.wide });
const OPPOSITE = { n: "s", s: "n", w: "e", e: "w" } as const;

describe.each([undefined, 1.5, 1, 0.75])("proportions %s", (ratio) => {
  const start = ratio ? { ...old, tall: Math.round(old.wide / ratio) } : old;
  test.each(SIDES)("the grip %s moves its own side and no opposite one", (sides) => {
    for (const [dx, dy] of [
      [30, 20],
      [-40, -15],
      [7, -60],
      [-3, 44],
    ] as [number, number][]) {
      const next = pullBox(start, sides, [dx, dy], { ...room, ratio });
      for (const side of sides) {
        const far = OPPOSITE[side as keyof typeof OPPOSITE];
        expect(edges(next)[far]).toBe(edges(start)[far]);
      }
      if (ratio) expect(Math.abs(next.wide / ratio - next.tall)).toBeLessThanOrEqual(1);
      expect(edges(next).w).toBeGreaterThanOrEqual(0);
      expect(edges(next).n).toBeGreaterThanOrEqual(0);
      expect(edges(next).e).toBeLessThanOrEqual(room.cols);
      expect(edges(next).s).toBeLessThanOrEqual(room.rows);
    }
  });

  test.each(SIDES)("the grip %s does something", (sides) => {
    const outwards: [number, number] = [sides.includes("w") ? -25 : 25, sides.includes("n") ? -25 : 25];
    expect(pullBox(start, sides, outwards, { ...room, ratio }).wide * 1).toBeGreaterThan(ratio || /[ew]/.test(sides) ? start.wide : start.wide - 1);
  });

  test.each(SIDES)("the grip %s stops at the edge and at two pixels", (sides) => {
    for (const far of [-9999, 9999]) {
      const next = pullBox(start, sides, [far, far], { ...room, ratio });
      expect(Math.min(next.wide, next.tall)).toBeGreaterThanOrEqual(2);
      expect([next.x >= 0, next.y >= 0, next.x + next.wide <= 400, next.y + next.tall <= 300]).toEqual([true, true, true, true]);
    }
  });
});

test("moved, it keeps its size and stays in the picture", () => {
  expect(moveBox(old, [999, -999], room)).toEqual({ ...old, x: 280, y: 0 });
});

test("typed numbers", () => {
  expect(typeBox(old, { x: 20 }, room)).toEqual({ ...old, x: 20 });
  expect(typeBox(old, { x: 350 }, room)).toEqual({ ...old, x: 350, wide: 50 });
  expect(typeBox(old, { wide: 90 }, { ...room, ratio: 1.5 })).toEqual({ ...old, wide: 90, tall: 60 });
  expect(typeBox(old, { tall: 40 }, { ...room, ratio: 1.5 })).toEqual({ ...old, wide: 60, tall: 40 });
  expect(typeBox(old, { x: 340 }, { ...room, ratio: 1.5 })).toEqual({ x: 340, y: 80, wide: 60, tall: 40 });
  expect(boxLimits(old, room)).toEqual({ x: 380, y: 285, wide: 300, tall: 220 });
  expect(boxLimits(old, { ...room, ratio: 2 })).toEqual({ x: 380, y: 285, wide: 300, tall: 150 });
});
