import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, type Entry, type Recipe, takeAs } from "../../../api/client";
import { useOldQuery } from "../../../shared/old";
import { useLast } from "../../../shared/useLast";
import { buildUp, formKind } from "../../at";
import { pictureKey } from "../../picture/useCorrected";

export interface Outlines {
  /** The entries as they were when the outlines were made. */
  entries: Entry[];
  loops: Map<string, [number, number][][]>;
}

/** Where the entries of the build-up lie, as the core laid them out. */
export function useOutlines(recipe: Recipe, resting: boolean): Outlines | undefined {
  const entries = buildUp.read(recipe);
  const query = useQuery({
    queryKey: ["outlines", pictureKey(recipe), formKind(recipe)],
    queryFn: async (): Promise<Outlines> => {
      const found = await takeAs<{ entry_id: string; loops: [number, number][][] }[]>(api.POST("/api/outlines", { body: { recipe } }));
      return { entries, loops: new Map(found.map(({ entry_id, loops }) => [entry_id, loops])) };
    },
    // While an entry moves, its loops are moved along; they are laid out anew when it rests.
    enabled: resting && entries.length > 1,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
    retry: false,
  });
  useOldQuery("the outlines", query);
  return useLast(query.data);
}
