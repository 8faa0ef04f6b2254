import { useQuery } from "@tanstack/react-query";
import { api, type Corrected, type Recipe, takeAs } from "../../api/client";
import { useOldQuery } from "../../shared/old";
import { useLast } from "../../shared/useLast";
import { pictured } from "../at";

/** The picture as it stands before a correction: its size and its histogram. */
export function useInput(recipe: Recipe, index: number): Corrected | undefined {
  const step = pictured.read(recipe);
  const before = { ...step, corrections: step.corrections.slice(0, index) };
  const query = useQuery({
    queryKey: ["corrected", JSON.stringify(before)],
    queryFn: () =>
      takeAs<Corrected>(
        api.POST("/api/corrected", {
          body: {
            recipe: pictured.write(recipe, before),
            upto: null,
            quality: "screen",
          },
        }),
      ),
    placeholderData: (last) => last,
    staleTime: Infinity,
    retry: false,
  });
  useOldQuery("the figures of the picture", query);
  return useLast(query.data);
}
