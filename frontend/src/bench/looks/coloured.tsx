import type { Look, SurfaceProps } from "./look";
import { Stone } from "./surface";

/**
 * The lamp is bright, for stone, and a picture has light and shade of its own: colours take less of
 * the lamp, and glow a little, so that they look as in the picture where they face it.
 */
const MILD = "rgb(179, 179, 179)";
const GLOW = 0.8;
const glowing = (shader: { fragmentShader: string }) => {
  shader.fragmentShader = shader.fragmentShader.replace("#include <emissivemap_fragment>", `totalEmissiveRadiance += diffuseColor.rgb * ${GLOW.toFixed(2)};`);
};

/** In the colours that the mesh has. */
function Coloured({ shown }: SurfaceProps) {
  if (!shown.geometry.hasAttribute("color")) return <Stone shown={shown} />;
  return (
    <mesh geometry={shown.geometry}>
      <meshLambertMaterial vertexColors color={MILD} onBeforeCompile={glowing} />
    </mesh>
  );
}

export const coloured: Look = {
  id: "coloured",
  words: "colours",
  Surface: Coloured,
  suits: (_, figures) => Boolean(figures?.mesh.coloured),
};
