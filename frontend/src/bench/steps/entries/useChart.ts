import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, type Recipe, take } from "../../../api/client";
import { useOldQuery } from "../../../shared/old";
import { useLast } from "../../../shared/useLast";
import { art, hasHeights, tones } from "../../at";

const neverAsked = (): never => {
  throw new TypeError("the piece has no heights");
};

/** Height above the underside of 256 tones from black to white, mm, as the core draws the chart. */
export function useChart(recipe: Recipe): number[] | undefined {
  const body = hasHeights(recipe)
    ? { entry: tones.read(recipe), backing: art.read(recipe).backing, attenuation_per_mm: recipe.made_with.material.attenuation_per_mm }
    : undefined;
  const query = useQuery({
    queryKey: ["chart", JSON.stringify(body)],
    queryFn: () => take(api.POST("/api/chart", { body: body ?? neverAsked() })),
    enabled: body !== undefined,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
    retry: false,
  });
  useOldQuery("the tone chart", query);
  return useLast(query.data);
}

/** Height above the underside of a tone, mm, as far as it is known. */
export function useHeightOf(recipe: Recipe): (tone: number) => number {
  const chart = useChart(recipe);
  return (tone) => chart?.[Math.round(tone * 255)] ?? 0;
}
