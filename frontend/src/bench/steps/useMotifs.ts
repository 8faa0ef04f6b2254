import { useQuery } from "@tanstack/react-query";
import { api, type Motif, take } from "../../api/client";

const NONE: Motif[] = [];

/** The motifs of the library. */
export const useMotifs = (): Motif[] =>
  useQuery({
    queryKey: ["motifs", ""],
    queryFn: () => take(api.GET("/api/motifs", { params: { query: { query: "" } } })),
  }).data ?? NONE;
