import { useThree } from "@react-three/fiber";
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { type Job, Refusal } from "../../api/client";
import { make, resultAt } from "../../api/products";
import { useTint } from "../useDeviation";
import type { SurfaceProps } from "./look";
import { Stone } from "./surface";

export type Asked = Omit<SurfaceProps, "shown">;
type What = "walls" | "stretch";

/** What a tint of the whole piece says: asked for what is kept. */
export function useTold<K extends What>(what: K, { piece, recipe, resting }: Asked) {
  return useQuery({
    queryKey: [what, piece.id, piece.state],
    enabled: resting,
    queryFn: async ({ signal }): Promise<{ said: NonNullable<Job[K]>; address: string }> => {
      const job = await make(piece, `${what}.glb`, recipe, () => !signal.aborted);
      const said = job[what];
      if (job.state !== "done" || !said) throw job.error ? new Refusal(job.error) : new Error("called off");
      return { said, address: resultAt(job) };
    },
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
}

/** The piece in that tint. */
export function Tinted({ what, ...props }: SurfaceProps & { what: What }) {
  const invalidate = useThree((state) => state.invalidate);
  const tint = useTint(useTold(what, props).data?.address);
  useEffect(() => invalidate(), [tint, invalidate]);
  if (!tint) return <Stone shown={props.shown} />;
  return (
    <mesh geometry={tint}>
      <meshLambertMaterial vertexColors />
    </mesh>
  );
}
