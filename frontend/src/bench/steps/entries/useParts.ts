import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, newest, type Recipe, type Schemas, takeAs } from "../../../api/client";
import { art } from "../../at";
import type { Made } from "./entry";

export type Part = Omit<Schemas["TracedPart"], "loops" | "place"> & { place: [number, number]; loops: [number, number][][] };
export interface Node {
  place: [number, number];
  smooth: boolean;
}
export type Parts = Omit<Schemas["PartsOut"], "parts" | "size_mm" | "picture_mm" | "nodes"> & {
  parts: Part[];
  nodes: Node[];
  size_mm: [number, number];
  picture_mm: [number, number];
};

/** What of an entry and its recipe the parts depend on. */
const partsKey = (recipe: Recipe, { trace }: Made<"traced">) => JSON.stringify([art.read(recipe).picture, trace]);

/** The parts that a trace finds in the picture. */
export function useParts(recipe: Recipe, entry: Made<"traced">) {
  return useQuery({
    queryKey: ["parts", partsKey(recipe, entry)],
    queryFn: ({ signal }) => takeAs<Parts>(api.POST("/api/parts", { body: { recipe, entry_id: entry.id }, ...newest("parts", signal) })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
    retry: false,
  });
}

const inLoop = (loop: [number, number][], [x, y]: [number, number]) =>
  loop.reduce((inside, [x0, y0], k) => {
    const [x1, y1] = loop[(k + 1) % loop.length];
    return y0 > y !== y1 > y && x < x0 + ((y - y0) / (y1 - y0)) * (x1 - x0) ? !inside : inside;
  }, false);

/** Whether a place lies within the line around a part. */
export const within = ({ loops }: Part, place: [number, number]) => loops.length > 0 && inLoop(loops[0], place);
