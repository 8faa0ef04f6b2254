import type { Look, SurfaceProps } from "./look";
import { Stone } from "./surface";

/** In the colours that the mesh has. */
function Coloured({ shown }: SurfaceProps) {
  if (!shown.geometry.hasAttribute("color")) return <Stone shown={shown} />;
  return (
    <mesh geometry={shown.geometry}>
      <meshLambertMaterial vertexColors />
    </mesh>
  );
}

export const coloured: Look = {
  id: "coloured",
  words: "colours",
  Surface: Coloured,
  suits: (_, figures) => Boolean(figures?.mesh.coloured),
};
