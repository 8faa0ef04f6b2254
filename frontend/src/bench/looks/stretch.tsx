import { useQuery } from "@tanstack/react-query";
import { useThree } from "@react-three/fiber";
import { useEffect } from "react";
import { Refusal, type Schemas } from "../../api/client";
import { make, resultAt } from "../../api/products";
import { mm } from "../../shared/format";
import { useTint } from "../useDeviation";
import type { Look, SurfaceProps } from "./look";
import { Stone } from "./surface";

type Asked = Omit<SurfaceProps, "shown">;

/** How art on the body is stretched: asked for what is kept. */
function useStretch({ piece, recipe, resting }: Asked) {
  return useQuery({
    queryKey: ["stretch", piece.id, piece.state],
    enabled: resting,
    queryFn: async ({ signal }): Promise<{ said: Schemas["StretchOut"]; address: string }> => {
      const job = await make(piece, "stretch.glb", recipe, () => !signal.aborted);
      if (job.state !== "done" || !job.stretch) throw job.error ? new Refusal(job.error) : new Error("called off");
      return { said: job.stretch, address: resultAt(job) };
    },
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
}

function Tinted(props: SurfaceProps) {
  const invalidate = useThree((state) => state.invalidate);
  const tint = useTint(useStretch(props).data?.address);
  useEffect(() => invalidate(), [tint, invalidate]);
  if (!tint) return <Stone shown={props.shown} />;
  return (
    <mesh geometry={tint}>
      <meshLambertMaterial vertexColors />
    </mesh>
  );
}

function Legend(props: Asked) {
  const { data, error } = useStretch(props);
  return (
    <div className="legend" role="status">
      {data ? (
        <>
          <span>lines become longer or shorter by</span>
          <span className="mono">0</span>
          <span className="legend-scale" aria-hidden="true" />
          <span className="mono">{mm(Math.max(data.said.most, 0.01) * 100, 1)} %</span>
        </>
      ) : (
        <span className="quiet">{error ? "the stretch could not be measured" : "the stretch is measured"}</span>
      )}
    </div>
  );
}

export const stretch: Look = {
  id: "stretch",
  words: "stretch",
  title: "How art on the body is stretched: madder where it is the most",
  Surface: Tinted,
  Legend,
  suits: ({ begins }) => begins.kind === "body" && begins.decorations.some((one) => one.enabled && one.kind === "decoration"),
};
