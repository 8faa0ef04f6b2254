import { expect, test } from "vitest";
import { FRESH } from "../../../api/fresh";
import type { Made } from "./entry";
import { nearestOn, resized, toMm } from "./places";
import { moved } from "./TracedNodes";

type Trace = Made<"traced">["trace"];
const SIZE: [number, number] = [100, 50];
const fresh = FRESH.entries.traced.trace as Trace;

test("shares of the picture are mm from its middle, up", () => {
  expect(toMm([0.75, 0.25], SIZE)).toEqual({ x: { mm: 25, text: null }, y: { mm: 12.5, text: null } });
});

test("the nearest place on a closed line is found on its last side too", () => {
  const loop: [number, number][] = [
    [0, 0],
    [1, 0],
    [1, 1],
  ];
  const found = nearestOn([loop], [0.4, 0.6], SIZE);
  expect(found?.place[0]).toBeCloseTo(found?.place[1] ?? -1);
  expect(nearestOn([], [0.5, 0.5], SIZE)).toBeUndefined();
});

test("a node that was moved before is moved again, not twice", () => {
  const first = moved([], [0.5, 0.5], [0.6, 0.5], SIZE);
  expect(first).toHaveLength(1);
  expect(first[0]).toMatchObject({ does: "move", x: { mm: 0 }, to_x: { mm: 10 } });
  const again = moved(first, [0.6, 0.5], [0.6, 0.4], SIZE);
  expect(again).toHaveLength(1);
  expect(again[0]).toMatchObject({ x: { mm: 0 }, to_x: { mm: 10 }, to_y: { mm: 5 } });
  expect(moved(again, [0.1, 0.1], [0.2, 0.1], SIZE)).toHaveLength(2);
});

test("what was placed by hand grows with the picture", () => {
  const choice = { x: { mm: 4, text: null }, y: { mm: -2, text: "-2 mm" }, keep: "drop" as const };
  const trace = { ...fresh, choices: [choice], nodes: moved([], [0.5, 0.5], [0.6, 0.5], SIZE) };
  const twice = resized(trace, 2);
  expect(twice.choices[0]).toEqual({ x: { mm: 8, text: null }, y: { mm: -4, text: null }, keep: "drop" });
  expect(twice.nodes[0].to_x?.mm).toBe(20);
});
