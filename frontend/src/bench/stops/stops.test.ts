import { describe, expect, it } from "vitest";
import type { Figures, Recipe } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { FORMS } from "../forms";
import type { Look } from "../looks/look";
import { lookOf, LOOKS, offered, toggled } from "../looks";
import { stopOf, stopsOf } from ".";
import { isMended } from "./body";

const recipe = { begins: { kind: "relief" }, finish: [] as unknown } as Recipe;
const body = { begins: { kind: "body", decorations: [] as unknown }, finish: [{ kind: "smooth", enabled: true }] } as Recipe;
const coloured = { mesh: { coloured: true } } as Figures;

describe("stops", () => {
  it("are those of what the piece begins with", () => {
    expect(stopsOf(recipe).map(({ id }) => id)).toEqual(["picture", "heights", "form", "finish", "proof"]);
  });

  it("are none of a picture where the piece begins as a mesh", () => {
    expect(stopsOf(body).map(({ id }) => id)).toEqual(["body", "decorations", "finish", "proof"]);
    expect(stopOf(body, "picture").id).toBe("body");
  });

  it("a stop that a piece does not have is its first", () => {
    expect(stopOf(recipe, "proof").name).toBe("Proof");
    expect(stopOf(recipe, "decorations").id).toBe("picture");
  });
});

describe("the mesh report", () => {
  const holes = { remedy: "repair", fault: "holes" } as const;
  const by = (step: object) => ({ finish: [{ enabled: true, ...step }] }) as unknown as Recipe;

  it("says what a step of Finish mends already", () => {
    expect(isMended(holes, by({ kind: "repair", only: [] }))).toBe(true);
    expect(isMended(holes, by({ kind: "repair", only: ["holes", "fins"] }))).toBe(true);
    expect(isMended(holes, by({ kind: "repair", only: ["fins"] }))).toBe(false);
    expect(isMended(holes, by({ kind: "repair", only: [], enabled: false }))).toBe(false);
    expect(isMended({ remedy: "simplify", fault: null }, by({ kind: "simplify" }))).toBe(true);
    expect(isMended({ remedy: null, fault: null }, by({ kind: "simplify" }))).toBe(false);
  });
});

describe("looks", () => {
  const [surface, lines, , , , , lit, difference] = LOOKS;

  it("have an id and a key each of their own", () => {
    expect(new Set(LOOKS.map(({ id }) => id)).size).toBe(LOOKS.length);
    const keys = LOOKS.flatMap(({ key }) => (key ? [key] : []));
    expect(new Set(keys).size).toBe(keys.length);
    expect(lookOf("x-rays")).toBe(surface);
  });

  it("are turned off to the one that they go with, or to the surface", () => {
    expect(toggled("surface", lines)).toBe("lines");
    expect(toggled("lines", lines)).toBe("surface");
    expect(toggled("lit", difference)).toBe("difference");
    expect(toggled("difference", difference)).toBe("lit");
  });

  it("one that goes with another is offered beside it alone", () => {
    const now = (look: Look, id: string) => offered(look, id, recipe, undefined);
    expect(LOOKS.filter((look) => now(look, "surface"))).not.toContain(difference);
    expect([surface, lines, lit].every((look) => now(look, "surface"))).toBe(true);
    expect(now(difference, "lit") && now(difference, "difference")).toBe(true);
  });

  it("are offered to pieces that they suit", () => {
    const ids = (of: Recipe, figures?: Figures) => LOOKS.filter((look) => offered(look, "surface", of, figures)).map(({ id }) => id);
    expect(ids(body)).toEqual(["surface", "lines", "deviation", "walls"]);
    expect(ids(body, coloured)).toContain("coloured");
    expect(ids(recipe)).not.toContain("deviation");
  });
});

describe("forms", () => {
  it("are laid on forms that the core makes; only a disc has a round edge", () => {
    for (const [name, { laid }] of Object.entries(FORMS)) {
      expect(FRESH.forms).toHaveProperty(laid.form);
      expect(laid.edge === "round").toBe(name === "disc");
    }
    expect(new Set(Object.values(FORMS).map(({ laid }) => laid.form))).toEqual(new Set(Object.keys(FRESH.forms)));
  });
});
