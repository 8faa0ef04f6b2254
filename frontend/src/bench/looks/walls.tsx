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

/** How thick the walls are: asked for what is kept. */
function useWalls({ piece, recipe, resting }: Asked) {
  return useQuery({
    queryKey: ["walls", piece.id, piece.state],
    enabled: resting,
    queryFn: async ({ signal }): Promise<{ said: Schemas["WallsOut"]; address: string }> => {
      const job = await make(piece, "walls.glb", recipe, () => !signal.aborted);
      if (job.state !== "done" || !job.walls) throw job.error ? new Refusal(job.error) : new Error("called off");
      return { said: job.walls, address: resultAt(job) };
    },
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });
}

function Tinted(props: SurfaceProps) {
  const invalidate = useThree((state) => state.invalidate);
  const tint = useTint(useWalls(props).data?.address);
  useEffect(() => invalidate(), [tint, invalidate]);
  if (!tint) return <Stone shown={props.shown} />;
  return (
    <mesh geometry={tint}>
      <meshLambertMaterial vertexColors />
    </mesh>
  );
}

function Legend(props: Asked) {
  const { data, error } = useWalls(props);
  return (
    <div className="legend" role="status">
      {data ? (
        <>
          <span>walls, thinnest {data.said.thinnest_mm === null ? "none" : `${mm(data.said.thinnest_mm, 2)} mm`}</span>
          <span className="mono">0</span>
          <span className="legend-scale backwards" aria-hidden="true" />
          <span className="mono">{mm(data.said.most_mm, 2)} mm and more</span>
        </>
      ) : (
        <span className="quiet">{error ? "the walls could not be measured" : "walls are measured"}</span>
      )}
    </div>
  );
}

export const walls: Look = {
  id: "walls",
  words: "walls",
  title: "How thick the walls are: madder where they are thinnest",
  Surface: Tinted,
  Legend,
};
