import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import type { BufferGeometry } from "three";
import type { OrbitControls } from "three-stdlib";
import type { Recipe } from "../../api/client";
import { COLOURS } from "../../shared/colours";
import { change, decorations } from "../at";
import { useBench } from "../benchStore";
import { usePieceStore } from "../pieceStore";
import { stopOf } from "../stops";
import type { OpenPiece } from "../usePiece";
import type { Place } from "./Arrow";

interface Props {
  recipe: Recipe;
  proxy: BufferGeometry | undefined;
  sizeMm: number;
  edit: OpenPiece["edit"];
}

/** The decoration that is open is laid where one points, and slides along the surface as one drags. */
export function Placing({ recipe, proxy, sizeMm, edit }: Props) {
  const controls = useThree((state) => state.controls) as OrbitControls | null;
  const invalidate = useThree((state) => state.invalidate);
  const stop = useBench((state) => state.stop);
  const picking = usePieceStore((state) => state.picking);
  const last = useRef<Place>(undefined);
  const here = recipe.begins.kind === "body" && stopOf(recipe, stop).id === "decorations";
  const one = here ? decorations.read(recipe).find(({ id, enabled }) => enabled && id === picking) : undefined;
  useEffect(() => invalidate(), [one, invalidate]);
  useEffect(
    () => () => {
      if (last.current && controls) controls.enabled = true;
    },
    [controls],
  );
  if (!one || !proxy) return null;

  function put(at: Place, still: boolean) {
    last.current = still ? undefined : at;
    const place = at.map((side) => Number(side.toFixed(3))) as Place;
    edit(change(decorations, (now) => now.map((old) => (old.id === one?.id ? { ...old, at: place } : old))), "place", still);
  }

  function press(event: ThreeEvent<PointerEvent>) {
    if (event.button !== 0) return;
    event.stopPropagation();
    (event.target as Element).setPointerCapture(event.pointerId);
    if (controls) controls.enabled = false;
    put(event.point.toArray(), false);
  }

  function move(event: ThreeEvent<PointerEvent>) {
    if (!last.current || !event.face) return;
    event.stopPropagation();
    put(event.point.toArray(), false);
  }

  function letGo() {
    if (controls) controls.enabled = true;
    if (last.current) put(last.current, true);
  }

  return (
    <>
      <mesh geometry={proxy} visible={false} onPointerDown={press} onPointerMove={move} onPointerUp={letGo} onPointerCancel={letGo} />
      <mesh position={one.at as Place} renderOrder={3}>
        <sphereGeometry args={[sizeMm * 0.008, 16, 12]} />
        <meshBasicMaterial color={COLOURS.madder} depthTest={false} />
      </mesh>
    </>
  );
}
