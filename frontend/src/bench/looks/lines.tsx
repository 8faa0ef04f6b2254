import { COLOURS } from "../../shared/colours";
import type { Look, SurfaceProps } from "./look";
import { Stone } from "./surface";

/** So many triangles can be told apart by dark lines. */
const TOLD_APART = 40_000;

function Lines({ shown }: SurfaceProps) {
  const opacity = Math.max(0.1, Math.min(0.4, 0.4 * Math.sqrt(TOLD_APART / shown.figures.mesh.triangles)));
  return (
    <>
      <Stone shown={shown} behind />
      <mesh geometry={shown.geometry}>
        <meshBasicMaterial color={COLOURS.ink} wireframe transparent opacity={opacity} />
      </mesh>
    </>
  );
}

export const lines: Look = { id: "lines", words: "mesh lines", key: "l", Surface: Lines };
