import { useQuery } from "@tanstack/react-query";
import { type BufferGeometry, type Mesh } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { type Deviation, type Piece, type Recipe, Refusal, takeRaw } from "../api/client";
import { make, resultAt } from "../api/products";

export interface Away {
  said: Deviation;
  address: string;
}

/** By how much a finish step changed the mesh: asked for what is kept. */
export function useDeviation(piece: Piece, recipe: Recipe, stepId: string | undefined, resting: boolean) {
  return useQuery({
    queryKey: ["deviation", piece.id, piece.state, stepId],
    enabled: resting && stepId !== undefined,
    queryFn: async ({ signal }): Promise<Away> => {
      const job = await make(piece, `deviation-${stepId}.glb`, recipe, () => !signal.aborted);
      if (job.state !== "done" || !job.deviation) throw job.error ? new Refusal(job.error) : new Error("called off");
      return { said: job.deviation, address: resultAt(job) };
    },
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
}

const loader = new GLTFLoader();

/** The same as a tint on the finer of the two meshes. */
export function useTint(address: string | undefined): BufferGeometry | undefined {
  const { data } = useQuery({
    queryKey: ["tint", address],
    enabled: address !== undefined,
    queryFn: async () => {
      const data = await (await takeRaw(fetch(address ?? ""))).arrayBuffer();
      const gltf = await loader.parseAsync(data, "");
      const { geometry } = gltf.scene.children[0] as Mesh;
      geometry.computeVertexNormals();
      return geometry;
    },
    staleTime: Infinity,
    gcTime: 60_000,
    structuralSharing: false,
  });
  return data;
}
