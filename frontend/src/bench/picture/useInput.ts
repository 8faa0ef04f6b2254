import { useQuery } from "@tanstack/react-query";
import { api, type Corrected, type Recipe, takeAs } from "../../api/client";
import { useOldQuery } from "../../shared/old";
import { useLast } from "../../shared/useLast";

/** The picture as it stands before a correction: its size and its histogram. */
export function useInput(recipe: Recipe, index: number): Corrected | undefined {
  const { corrections, ...step } = recipe.picture;
  const before = corrections.slice(0, index);
  const query = useQuery({
    queryKey: ["corrected", JSON.stringify([step, before])],
    queryFn: () =>
      takeAs<Corrected>(
        api.POST("/api/corrected", {
          body: {
            recipe: { ...recipe, picture: { ...step, corrections: before } },
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
