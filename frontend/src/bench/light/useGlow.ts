import { useEffect, useState } from "react";
import { LinearFilter, RepeatWrapping, SRGBColorSpace, Texture } from "three";
import { newest, postForBlob, type Recipe } from "../../api/client";
import { showError } from "../../shared/notices";
import { lightKey } from "./useLight";

/** The lit piece as the core computed it, ready to be laid on the mesh by its places. */
export function useGlow(recipe: Recipe, resting: boolean, part: "lit" | "difference"): Texture | undefined {
  const [glow, setGlow] = useState<{ key: string; texture: Texture }>();
  const key = `${part} ${lightKey(recipe)}`;
  useEffect(() => {
    if (!resting) return;
    let dropped = false;
    const gone = new AbortController();
    void (async () => {
      try {
        const bitmap = await createImageBitmap(await postForBlob("/api/light.png", { recipe, part }, newest("glow", gone.signal)));
        if (dropped) return;
        const texture = new Texture(bitmap);
        texture.flipY = false;
        texture.colorSpace = SRGBColorSpace;
        texture.wrapS = RepeatWrapping;
        texture.minFilter = LinearFilter;
        texture.generateMipmaps = false;
        texture.needsUpdate = true;
        setGlow((old) => {
          old?.texture.dispose();
          return { key, texture };
        });
      } catch (error) {
        if (!dropped) showError(error);
      }
    })();
    return () => {
      dropped = true;
      gone.abort();
    };
    // The key holds all of the recipe that the light depends on.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, resting]);
  return glow?.texture;
}
