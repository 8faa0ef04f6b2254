import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, type Recipe, take } from "../../api/client";
import { useOldQuery } from "../../shared/old";
import { useLast } from "../../shared/useLast";

const ALONE = [{ kind: "picture" as const, id: "picture", name: "", enabled: true, rule: "replace" as const }];

/** Height above the underside of 256 tones from black to white, mm, as the core draws the chart. */
export function useChart({ heights, material }: Recipe): number[] | undefined {
  const attenuation = material?.attenuation_per_mm ?? 1.2;
  const body = { heights: { ...heights, build_up: ALONE }, attenuation_per_mm: attenuation };
  const query = useQuery({
    queryKey: ["chart", JSON.stringify(body)],
    queryFn: () => take(api.POST("/api/chart", { body })),
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
