import { expect, test } from "vitest";
import { isMeant } from "./AddingMenu";

const split = { name: "Split", purpose: "in two that fit by pins", also: "cut, boolean" };

test("what is offered is found by the beginnings of its words, ours or those of the trade", () => {
  for (const typed of ["", "sp", "SPLIT", "bool", "pins two", "  cut "]) expect(isMeant(split, typed), typed).toBe(true);
  for (const typed of ["plit", "remesh", "split remesh"]) expect(isMeant(split, typed), typed).toBe(false);
});
