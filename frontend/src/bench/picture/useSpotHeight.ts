import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { api, type Recipe, take } from "../../api/client";
import type { Spot } from "./frame";
import { pictureKey } from "./useCorrected";

/** The height of the piece under the pointer, with all of its build-up. */
export function useSpotHeight(recipe: Recipe, share: Spot | undefined, wanted: boolean) {
  const rounded = useDeferredValue(share?.map((value) => Number(value.toFixed(4))).join(" ") ?? "");
  const query = useQuery({
    queryKey: ["spot", pictureKey(recipe), rounded],
    queryFn: () => {
      const at = rounded.split(" ").map(Number) as Spot;
      return take(api.POST("/api/spot", { body: { recipe, at } }));
    },
    enabled: wanted && rounded !== "",
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 5_000,
    retry: false,
  });
  return query.data;
}
