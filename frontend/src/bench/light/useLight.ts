import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, newest, type Recipe, type Schemas, take } from "../../api/client";
import { useOldQuery } from "../../shared/old";
import { useLast } from "../../shared/useLast";
import { form } from "../at";
import { pictureKey } from "../picture/useCorrected";

export type Light = Schemas["LightOut"];

/** What of a recipe the light through it depends on. */
export const lightKey = (recipe: Recipe) => JSON.stringify([pictureKey(recipe), recipe.made_with, recipe.proof, form.read(recipe).kind]);

/** How well the light comes through. */
export function useLight(recipe: Recipe, wanted: boolean): Light | undefined {
  const query = useQuery({
    queryKey: ["light", lightKey(recipe)],
    queryFn: ({ signal }) => take(api.POST("/api/light", { body: { recipe }, ...newest("light", signal) })),
    enabled: wanted,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
    retry: false,
  });
  useOldQuery("the light", query);
  return useLast(query.data);
}
