import { beforeEach, expect, test, vi } from "vitest";
import { Refusal } from "../api/client";
import { unlessCalledOff } from "./useDraft";

const gone = new AbortController().signal;
const never = (signal: AbortSignal) => new Promise<string>((_, reject) => signal.addEventListener("abort", () => reject(new Error("aborted"))));
const told = { long: vi.fn(), off: vi.fn() };
const last = (of: typeof told.long) => of.mock.lastCall?.[0] as boolean | undefined;

beforeEach(() => {
  vi.useFakeTimers();
  vi.clearAllMocks();
  return () => vi.useRealTimers();
});

test("a draft that takes long says so, and is called off", async () => {
  const mine = new AbortController();
  const waiting = expect(unlessCalledOff(never, mine, gone, told)).rejects.toMatchObject({ detail: { kind: "cancelled" } });
  await vi.advanceTimersByTimeAsync(1900);
  expect(told.long).not.toHaveBeenCalled();
  await vi.advanceTimersByTimeAsync(200);
  expect(last(told.long)).toBe(true);
  mine.abort();
  await waiting;
  expect(last(told.long)).toBe(false);
  expect(last(told.off)).toBe(true);
});

test("what comes soon is never long, and what fails is said as it is", async () => {
  await expect(unlessCalledOff(async () => "a draft", new AbortController(), gone, told)).resolves.toBe("a draft");
  await vi.advanceTimersByTimeAsync(3000);
  expect(told.long.mock.calls.flat()).toEqual([false]);
  const away = new Refusal({ kind: "unreachable", what: "server", why: "it is away", remedy: "Wait" });
  await expect(unlessCalledOff(() => Promise.reject(away), new AbortController(), gone, told)).rejects.toBe(away);
  expect(last(told.off)).toBe(false);
});
