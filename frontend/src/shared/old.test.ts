import { beforeEach, expect, test, vi } from "vitest";
import { askAgain, failed, useOlds } from "./old";

const passes = { kind: "error", what: "request", why: "it broke", remedy: "Try again" };
const lasts = { ...passes, kind: "invalid_value" };
const said = () => useOlds.getState().list.map(({ what }) => what);

beforeEach(() => {
  vi.useFakeTimers({ now: 10_000 });
  return () => vi.useRealTimers();
});

test("what is mended at once is not said", () => {
  const over = failed({ what: "the section", why: passes, again: vi.fn() });
  vi.advanceTimersByTime(500);
  over();
  vi.advanceTimersByTime(5000);
  expect(said()).toEqual([]);
});

test("all that failed is asked for again, said or not", () => {
  const [early, late, never] = [vi.fn(), vi.fn(), vi.fn()];
  const overs = [failed({ what: "the piece", why: passes, again: early }), failed({ what: "the chart", why: lasts, again: never })];
  vi.advanceTimersByTime(1000);
  overs.push(failed({ what: "the section", why: passes, again: late }));
  expect(said()).toEqual(["the piece", "the chart"]);
  askAgain();
  expect([early, late, never].map((again) => again.mock.calls.length)).toEqual([1, 1, 0]);
  overs.forEach((over) => over());
  expect(said()).toEqual([]);
});

test("what was under way then and fails is asked for once more", () => {
  askAgain();
  vi.advanceTimersByTime(300);
  const again = vi.fn();
  const over = failed({ what: "the piece", why: passes, again });
  vi.advanceTimersByTime(3000);
  expect(again).toHaveBeenCalledOnce();
  over();
  const later = vi.fn();
  const overToo = failed({ what: "the piece", why: passes, again: later });
  vi.advanceTimersByTime(9000);
  expect(later).not.toHaveBeenCalled();
  overToo();
});
