import { useThree } from "@react-three/fiber";
import { useEffect } from "react";
import { useTint } from "../useDeviation";
import { useMade } from "../useMade";
import type { SurfaceProps } from "./look";
import { Stone } from "./surface";

export type Asked = Omit<SurfaceProps, "shown">;
type What = "walls" | "stretch";

/** What a tint of the whole piece says: asked for what is kept. */
export const useTold = <K extends What>(what: K, asked: Asked) => useMade(what, `${what}.glb`, asked, asked.resting);

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
