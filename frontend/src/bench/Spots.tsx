import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferGeometry, CanvasTexture, Float32BufferAttribute } from "three";
import { COLOURS } from "../shared/colours";
import { usePieceStore } from "./pieceStore";

const PX = 64;

/** A ring with a light rim, so that it is seen on dark and on light. */
function ring(): CanvasTexture {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = PX;
  const pen = canvas.getContext("2d");
  for (const [colour, wide] of [
    [COLOURS.white, 16],
    [COLOURS.brick, 9],
  ] as const) {
    if (!pen) break;
    pen.strokeStyle = colour;
    pen.lineWidth = wide;
    pen.beginPath();
    pen.arc(PX / 2, PX / 2, PX / 2 - 9, 0, 2 * Math.PI);
    pen.stroke();
  }
  return new CanvasTexture(canvas);
}

/** Rings around the places that are marked: seen through the piece, too. */
export function Spots() {
  const spots = usePieceStore((state) => state.spots);
  const invalidate = useThree((state) => state.invalidate);
  const geometry = useMemo(() => {
    const made = new BufferGeometry();
    made.setAttribute("position", new Float32BufferAttribute(spots.flat(), 3));
    return made;
  }, [spots]);
  useEffect(() => {
    invalidate();
    return () => geometry.dispose();
  }, [geometry, invalidate]);
  const texture = useMemo(ring, []);
  useEffect(() => () => texture.dispose(), [texture]);
  if (spots.length === 0) return null;
  return (
    <points geometry={geometry} renderOrder={2}>
      <pointsMaterial map={texture} size={20} sizeAttenuation={false} depthTest={false} transparent />
    </points>
  );
}
