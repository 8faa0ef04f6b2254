import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type Recipe, take } from "../../api/client";
import type { Spot } from "./frame";
import { hasHeights } from "../at";
import { pictureKey } from "./useCorrected";

/** A pointer on its way is not asked for; one that rests this long is. */
const REST_MS = 180;

/** The height of the piece under a resting pointer, with all of its build-up. */
export function useSpotHeight(recipe: Recipe, share: Spot | undefined, wanted: boolean) {
  const here = share?.map((value) => value.toFixed(4)).join(" ");
  const [rested, setRested] = useState<string>();
  useEffect(() => {
    const timer = window.setTimeout(() => setRested(here), REST_MS);
    return () => window.clearTimeout(timer);
  }, [here]);
  const query = useQuery({
    queryKey: ["spot", pictureKey(recipe), rested],
    queryFn: () => {
      const at = (rested ?? "0 0").split(" ").map(Number) as Spot;
      return take(api.POST("/api/spot", { body: { recipe, at } }));
    },
    enabled: wanted && hasHeights(recipe) && rested !== undefined && rested === here,
    staleTime: Infinity,
    gcTime: 5_000,
    retry: false,
  });
  return rested === here ? query.data : undefined;
}
