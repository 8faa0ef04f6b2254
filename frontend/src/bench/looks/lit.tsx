import { useThree } from "@react-three/fiber";
import { useEffect } from "react";
import { DoubleSide } from "three";
import { hasHeights } from "../at";
import { useGlow } from "../light/useGlow";
import type { Look, SurfaceProps } from "./look";
import { Stone } from "./surface";

const glowing = (part: "lit" | "difference") =>
  function Glowing({ shown, recipe, resting }: SurfaceProps) {
    const invalidate = useThree((state) => state.invalidate);
    const glow = useGlow(recipe, resting, part);
    useEffect(() => invalidate(), [glow, invalidate]);
    if (!glow) return <Stone shown={shown} />;
    return (
      <mesh geometry={shown.geometry}>
        <meshBasicMaterial map={glow} toneMapped={false} side={DoubleSide} />
      </mesh>
    );
  };

export const lit: Look = { id: "lit", words: "light-through", key: "h", Surface: glowing("lit"), suits: hasHeights, dark: true, light: true };

export const difference: Look = {
  id: "difference",
  words: "difference",
  title: "Madder where too little light comes through, ochre where too much",
  beside: "lit",
  Surface: glowing("difference"),
  light: true,
};
