import { useQuery } from "@tanstack/react-query";
import { api, type Motif, takeAs } from "../../api/client";

const NONE: Motif[] = [];

/** The motifs of the library. */
export const useMotifs = (): Motif[] =>
  useQuery({
    queryKey: ["motifs", ""],
    queryFn: () => takeAs<Motif[]>(api.GET("/api/motifs", { params: { query: { query: "" } } })),
  }).data ?? NONE;
