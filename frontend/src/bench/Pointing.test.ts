import { expect, test } from "vitest";
import type { Picked } from "./pieceStore";
import { words } from "./Pointing";

const at = (x: number, y: number, z = 0, wall?: number): Picked => ({ place: [x, y, z], normal: [0, 0, 1], wall, colour: undefined });

test("one place says how thick it is there", () => {
  expect(words([])).toBe("point at the piece");
  expect(words([at(0, 0, 0, 2.5)])).toBe("2.5 mm thick here");
  expect(words([at(0, 0)])).toBe("open on the other side");
});

test("two places say how far apart they are, and along each axis", () => {
  expect(words([at(0, 0), at(3, -4)])).toBe("5 mm apart (x 3, y 4, z 0)");
});

test("three say the angle at the second, and the circle through them", () => {
  expect(words([at(3, 0), at(0, 0), at(0, 4)])).toBe("first to second 3 mm, to third 4 mm, angle 90°, circle through them 5 mm across");
  expect(words([at(0, 0), at(1, 0), at(2, 0)])).toBe("first to second 1 mm, to third 1 mm, angle 180°");
});
