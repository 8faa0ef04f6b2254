import { useQuery } from "@tanstack/react-query";
import { type Job, type Piece, type Recipe, Refusal } from "../api/client";
import { make, resultAt } from "../api/products";

type What = "walls" | "stretch" | "proof";

/** What something that is made of the whole piece says: asked for what is kept. */
export function useMade<K extends What>(what: K, product: string, { piece, recipe }: { piece: Piece; recipe: Recipe }, wanted: boolean) {
  return useQuery({
    queryKey: [what, piece.id, piece.state],
    enabled: wanted,
    queryFn: async ({ signal }): Promise<{ said: NonNullable<Job[K]>; address: string }> => {
      const job = await make(piece, product, recipe, () => !signal.aborted);
      const said = job[what];
      if (job.state !== "done" || !said) throw job.error ? new Refusal(job.error) : new Error("called off");
      return { said, address: resultAt(job) };
    },
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
}
