import { COLOURS } from "../../shared/colours";
import type { Look, SurfaceProps } from "./look";

/** The stone alone. */
export function Stone({ shown: { geometry }, behind = false }: Pick<SurfaceProps, "shown"> & { behind?: boolean }) {
  return (
    <mesh geometry={geometry}>
      <meshLambertMaterial color={COLOURS.stone} polygonOffset={behind} polygonOffsetFactor={1} polygonOffsetUnits={1} />
    </mesh>
  );
}

export const surface: Look = { id: "surface", words: "surface", Surface: Stone };
