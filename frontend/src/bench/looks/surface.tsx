import { useEffect, useMemo } from "react";
import { COLOURS } from "../../shared/colours";
import { creasesOf } from "./creases";
import type { Look, SurfaceProps } from "./look";

interface Props extends Pick<SurfaceProps, "shown"> {
  behind?: boolean;
}

/** The stone alone. */
export function Stone({ shown: { geometry }, behind = false }: Props) {
  return (
    <mesh geometry={geometry}>
      <meshLambertMaterial color={COLOURS.stone} polygonOffset={behind} polygonOffsetFactor={1} polygonOffsetUnits={1} />
    </mesh>
  );
}

/** Of a body, the creases: art as high as it is everywhere is lit as what it stands on. */
function Surface({ shown }: SurfaceProps) {
  const { geometry, figures } = shown;
  const creases = useMemo(() => (figures.form ? undefined : creasesOf(geometry)), [geometry, figures.form]);
  useEffect(() => () => creases?.dispose(), [creases]);
  return (
    <>
      <Stone shown={shown} behind={creases !== undefined} />
      {creases && (
        <lineSegments geometry={creases}>
          <lineBasicMaterial color={COLOURS.ink} transparent opacity={0.28} />
        </lineSegments>
      )}
    </>
  );
}

export const surface: Look = { id: "surface", words: "surface", Surface };
