import type { Look, SurfaceProps } from "./look";
import { Stone } from "./surface";

/** The lamp is bright, for stone: colours take so much less of it that they look as in the picture. */
const MILD = "rgb(221, 221, 221)";

/** In the colours that the mesh has. */
function Coloured({ shown }: SurfaceProps) {
  if (!shown.geometry.hasAttribute("color")) return <Stone shown={shown} />;
  return (
    <mesh geometry={shown.geometry}>
      <meshLambertMaterial vertexColors color={MILD} />
    </mesh>
  );
}

export const coloured: Look = {
  id: "coloured",
  words: "colours",
  Surface: Coloured,
  suits: (_, figures) => Boolean(figures?.mesh.coloured),
};
