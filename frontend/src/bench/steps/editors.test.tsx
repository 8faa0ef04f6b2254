import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ComponentType } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { describe, expect, it } from "vitest";
import type { PieceOfHeights, Recipe } from "../../api/client";
import { FRESH } from "../../api/fresh";
import { PieceStore } from "../pieceStore";
import { CORRECTIONS } from "./corrections";
import { ENTRIES } from "./entries";
import { FINISH } from "./finish";
import { FITTINGS } from "./fittings";
import { newStep, type StepKind } from "./kinds";

const file = { sha256: "a".repeat(64), filename: "a.png" };
const piece = { id: "p", picture: { ...file, cols: 101, rows: 51, coloured: true } } as PieceOfHeights;
const recipe = {
  begins: { ...FRESH.relief, art: { ...FRESH.art, picture: { ...FRESH.pictured, file } } },
  finish: [],
  made_with: { material: FRESH.material },
} as unknown as Recipe;
const edit = () => undefined;
const motifs = [{ id: "m", name: "Star", picture: { ...file, cols: 4, rows: 3 } }];
type Any = StepKind<{ id: string; kind: string; name: string; enabled: boolean }, object>;

const lists = [
  ["correction", CORRECTIONS, FRESH.corrections, { piece, recipe }],
  ["entry", ENTRIES, FRESH.entries, { recipe, edit, motifs }],
  ["fitting", FITTINGS, FRESH.fittings, {}],
  ["finish", FINISH, FRESH.finish, { piece, recipe, resting: true, done: new Map(), figures: undefined }],
] as const;

describe.each(lists)("every kind of %s", (one, kinds, fresh, context) => {
  const all = Object.entries(kinds) as unknown as [string, Any][];

  it.each(all)("%s: opens with all that it asks for", (name, kind) => {
    // What a file is asked for first has one by then.
    const step = newStep(kind, { file, ...(fresh as Record<string, object>)[name] }, context, one);
    const Editor = kind.Editor as ComponentType<Record<string, unknown>>;
    const seen = renderToStaticMarkup(
      <QueryClientProvider client={new QueryClient()}>
        <PieceStore pieceId="one">
          <Editor {...context} step={step} index={0} set={edit} />
        </PieceStore>
      </QueryClientProvider>,
    );
    expect(seen).toMatch(/<(input|select|button|p|div)/);
    expect(seen).not.toMatch(/NaN|undefined|\[object/);
    expect(kind.figure(step, context)).not.toMatch(/NaN|undefined/);
  });
});
