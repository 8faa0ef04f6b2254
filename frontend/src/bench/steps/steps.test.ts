import { describe, expect, it } from "vitest";
import type { Correction, Entry, FinishStep, Fitting, PieceOfHeights, Recipe } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { CORRECTIONS, correctionKind, freshCorrection, fromRemedy } from "./corrections";
import { ENTRIES, entryTitle, sizeOf } from "./entries";
import { FINISH } from "./finish";
import { FITTINGS } from "./fittings";
import { kindOf, newStep, type StepKind, titleOf, wordOf } from "./kinds";

const piece = { picture: { cols: 101, rows: 51, sha256: "a" } } as PieceOfHeights;
const recipe = {} as Recipe;
const motifs = [{ id: "m", name: "Star", picture: { sha256: "b" } }];
type Any = StepKind<{ id: string; kind: string; name: string; enabled: boolean }, object>;

const lists = [
  ["correction", CORRECTIONS, FRESH.corrections, { piece, recipe }],
  ["entry", ENTRIES, FRESH.entries, { recipe, motifs }],
  ["fitting", FITTINGS, FRESH.fittings, {}],
  ["finish", FINISH, FRESH.finish, { piece, recipe, resting: true, done: new Map(), figures: undefined }],
] as const;

describe.each(lists)("every kind of %s", (one, kinds, fresh, context) => {
  const all = Object.entries(kinds) as unknown as [string, Any][];

  it("is one that the core makes, and the other way about", () => {
    expect(all.map(([kind]) => kind).sort()).toEqual(Object.keys(fresh).sort());
  });

  it.each(all)("%s: begins as the core has it, with an id of its own", (name, kind) => {
    const defaults = (fresh as Record<string, object>)[name];
    const [first, second] = [newStep(kind, defaults, context, one), newStep(kind, defaults, context, one)];
    expect(first.kind).toBe(name);
    expect(first.id).not.toBe(second.id);
    expect(first).toMatchObject({ ...defaults, ...kind.fresh?.(context) });
  });

  it.each(all)("%s: its first tool is one that it has", (_, kind) => {
    if (kind.firstTool) expect(Object.keys(kind.tools ?? {})).toContain(kind.firstTool);
  });
});

describe("what the tools of a correction leave", () => {
  const made = <K extends Correction["kind"]>(kind: K) => freshCorrection(kind, { piece, recipe }) as Extract<Correction, { kind: K }>;
  const stroke = { points: [[1, 2]] as [number, number][], wide: 3 };
  const clicked = (tone = 0.5) => ({
    place: [7, 8] as [number, number],
    tone: () => tone,
    colour: () => undefined,
    height: () => 1.234,
  });

  it("a stroke is added to those that are there", () => {
    const step = { ...made("brush"), strokes: [stroke] };
    const paint = CORRECTIONS.brush.tools?.paint;
    if (paint?.by !== "stroke") throw new Error("no stroke");
    expect(paint.done(step, stroke).part).toEqual({ strokes: [stroke, stroke] });
  });

  it("the first end of a length is followed by the second, and that by none", () => {
    const { first, second } = CORRECTIONS.true_size.tools ?? {};
    if (first?.by !== "click" || second?.by !== "click") throw new Error("no click");
    const step = made("true_size");
    expect(first.done(step, clicked())).toMatchObject({ part: { first: [7, 8] }, then: "second", resting: false });
    expect(second.done(step, clicked())).toMatchObject({ part: { second: [7, 8] }, then: "none" });
  });

  it("a colour is picked only where it is shown", () => {
    const pick = CORRECTIONS.read_from.tools?.pick;
    if (pick?.by !== "click") throw new Error("no click");
    expect(pick.done(made("read_from"), clicked())).toBeUndefined();
    expect(pick.done(made("read_from"), { ...clicked(), colour: () => [1, 0, 0] })?.part).toEqual({ colour: [1, 0, 0] });
  });

  it("picked tones are kept in order", () => {
    const pick = CORRECTIONS.tone_steps.tools?.pick;
    if (pick?.by !== "click") throw new Error("no click");
    expect(pick.done({ ...made("tone_steps"), tones: [0.2, 0.9] }, clicked(0.5))?.part).toEqual({ tones: [0.2, 0.5, 0.9] });
  });

  it("a tone is pinned to its height once, where there are pins", () => {
    const pin = ENTRIES.picture.tools?.pin;
    if (pin?.by !== "click") throw new Error("no click");
    const entry = { ...FRESH.entries.picture, id: "picture", mapping: "chart", pins: [] } as unknown as Extract<Entry, { kind: "picture" }>;
    const left = pin.done(entry, clicked(0.25));
    expect(left).toEqual({ part: { pins: [{ tone: 0.25, mm: { mm: 1.23 } }] }, label: "pin a tone" });
    expect(pin.done({ ...entry, ...left?.part }, clicked(0.251))).toBeUndefined();
    expect(pin.offered?.(entry)).toBe(true);
    expect(pin.offered?.({ ...entry, mapping: "straight" })).toBe(false);
  });
});

describe("names", () => {
  const fresh = (kind: Entry["kind"]) => newStep(kindOf(ENTRIES, { kind } as Entry), FRESH.entries[kind], { recipe, motifs } as never, "entry");

  it("an entry is called by what it shows, and by its own name once it has one", () => {
    expect(entryTitle(fresh("outline"))).toMatch(/^[A-Z]/);
    expect(entryTitle({ ...fresh("text"), text: "Corvane\nHill" } as Entry)).toBe("“Corvane”");
    expect(entryTitle({ ...fresh("pattern"), name: "Stars" })).toBe("Stars");
  });

  it("no undo step is called by words that are only half typed", () => {
    const text = { ...fresh("text"), text: "Corv" } as Entry;
    expect(wordOf(kindOf(ENTRIES, text), text)).toBe("text");
    expect(wordOf(kindOf(ENTRIES, text), { ...text, name: "Label" })).toBe("label");
  });

  it("a remedy is a correction like any other", () => {
    const remedy = fromRemedy({ ...freshCorrection("invert", { piece, recipe }), name: "x", enabled: false });
    expect(remedy).toMatchObject({ kind: "invert", name: "", enabled: true });
    expect(titleOf(correctionKind(remedy), remedy)).toBe("Invert");
  });

  it("a fitting says its main number", () => {
    const eyelet = { ...FRESH.fittings.eyelet, id: "a" } as unknown as Extract<Fitting, { kind: "eyelet" }>;
    expect(FITTINGS.eyelet.figure(eyelet, {})).toMatch(/^[\d.]+ mm hole$/);
  });
});

describe("a finish step says", () => {
  const report = (triangles: number, manifold: boolean) => ({ triangles, manifold, size_mm: [1, 2, 3] });
  const step = <K extends FinishStep["kind"]>(kind: K) => ({ ...FRESH.finish[kind], id: "a" }) as unknown as Extract<FinishStep, { kind: K }>;
  const context = (error: object | null = null) =>
    ({ done: new Map([["a", { before: report(1_310_720, false), after: report(99_900, true), low_mm: [-5, 0, 0], error }]]) }) as never;

  it("what it changed, once that is known", () => {
    expect(FINISH.simplify.figure(step("simplify"), context())).toBe("1.31 M → 100 k");
    expect(FINISH.simplify.figure(step("simplify"), context({}))).toBe("");
    expect(FINISH.repair.figure(step("repair"), context())).toBe("closed");
  });

  it("its main number", () => {
    expect(FINISH.trim.figure({ ...step("trim"), at: { mm: 3, text: null } }, context())).toBe("z ≥ 3");
    expect(FINISH.turn.figure({ ...step("turn"), x: 90, mirror: "y" }, context())).toBe("x 90°, mirrored");
    expect(FINISH.scale.figure({ ...step("scale"), x: 2 }, context())).toBe("2 × 1 × 1");
  });
});

describe("sized by hand", () => {
  it.each(["outline", "text", "motif", "pattern"] as const)("twice as large, a %s is twice its size", (kind) => {
    const entry = newStep(kindOf(ENTRIES, { kind } as Entry), FRESH.entries[kind], { recipe, motifs } as never, "entry");
    const size = sizeOf(entry);
    const { placing } = kindOf(ENTRIES, entry);
    if (!size || !placing) throw new Error("it has no size");
    const larger = { ...entry, ...placing.scaled(entry as never, 2) } as never;
    expect(size(larger)).toBeCloseTo(2 * size(entry as never));
  });

  it("neither the picture nor a frame has a size of its own", () => {
    expect(ENTRIES.picture.placing ?? ENTRIES.frame.placing).toBeUndefined();
  });
});
