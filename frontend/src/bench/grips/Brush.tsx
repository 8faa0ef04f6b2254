import { Line } from "@react-three/drei";
import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";
import { type BufferGeometry, Quaternion, Vector3 } from "three";
import type { OrbitControls } from "three-stdlib";
import type { Texture } from "../../api/client";
import { COLOURS } from "../../shared/colours";
import { usePieceStore } from "../pieceStore";
import type { Place } from "./Arrow";

const CIRCLE = Array.from({ length: 49 }, (_, i): Place => [Math.cos((i * Math.PI) / 24), Math.sin((i * Math.PI) / 24), 0]);
const AHEAD = new Vector3(0, 0, 1);
const MOST = 1000;

interface Props {
  step: { id: string; strokes: Texture["strokes"][number][] };
  proxy: BufferGeometry;
  sizeMm: number;
  set: (part: { strokes: Texture["strokes"][number][] }, still: boolean) => void;
}

const rounded = (at: Vector3): Place => at.toArray().map((side) => Number(side.toFixed(3))) as Place;

/** Strokes over the surface: drawn where the pointer is pressed on the piece; beside it, it turns. */
export function Brush({ step, proxy, sizeMm, set }: Props) {
  const controls = useThree((state) => state.controls) as OrbitControls | null;
  const invalidate = useThree((state) => state.invalidate);
  const { dab, picking } = usePieceStore();
  const [run, setRun] = useState<Place[]>([]);
  const [over, setOver] = useState<{ place: Place; normal: Vector3 }>();
  const on = picking === step.id;
  const drawing = useRef(false);
  useEffect(() => invalidate(), [run, over, step.strokes, on, invalidate]);

  useEffect(
    () => () => {
      if (drawing.current && controls) controls.enabled = true;
    },
    [controls],
  );

  const spot = (event: ThreeEvent<PointerEvent>) => ({ place: rounded(event.point), normal: event.face?.normal.clone() ?? AHEAD.clone() });

  function press(event: ThreeEvent<PointerEvent>) {
    if (event.button !== 0) return;
    event.stopPropagation();
    (event.target as Element).setPointerCapture(event.pointerId);
    drawing.current = true;
    if (controls) controls.enabled = false;
    setRun([rounded(event.point)]);
  }

  function move(event: ThreeEvent<PointerEvent>) {
    // Captured, it comes with a place only where the piece is under it.
    if (!event.face) return;
    const here = spot(event);
    setOver(here);
    if (!drawing.current) return;
    event.stopPropagation();
    const step = dab.size.mm / 8;
    setRun((now) => {
      const last = now.at(-1);
      const far = !last || new Vector3(...last).distanceTo(new Vector3(...here.place)) > step;
      return far && now.length < MOST ? [...now, here.place] : now;
    });
  }

  function letGo() {
    if (!drawing.current) return;
    drawing.current = false;
    if (controls) controls.enabled = true;
    if (run.length) set({ strokes: [...step.strokes, { places: run, size: dab.size, strength: dab.strength }] }, true);
    setRun([]);
  }

  const turn = useMemo(() => (over ? new Quaternion().setFromUnitVectors(AHEAD, over.normal) : undefined), [over]);
  const lines = [...step.strokes.map(({ places }) => places as Place[]), run].filter((places) => places.length > 0);
  return (
    <>
      {on && (
        <mesh
          geometry={proxy}
          visible={false}
          onPointerDown={press}
          onPointerMove={move}
          onPointerUp={letGo}
          onPointerCancel={letGo}
          onPointerOut={() => !drawing.current && setOver(undefined)}
        />
      )}
      {lines.map((places, i) =>
        places.length > 1 ? (
          <Line key={i} points={places} color={COLOURS.madder} lineWidth={2} transparent opacity={0.55} depthTest={false} renderOrder={3} />
        ) : (
          <mesh key={i} position={places[0]} renderOrder={3}>
            <sphereGeometry args={[sizeMm * 0.006, 12, 8]} />
            <meshBasicMaterial color={COLOURS.madder} transparent opacity={0.55} depthTest={false} />
          </mesh>
        ),
      )}
      {on && over && (
        <group position={over.place} quaternion={turn} scale={dab.size.mm / 2}>
          <Line points={CIRCLE} color={COLOURS.madder} lineWidth={1.5} depthTest={false} renderOrder={3} />
        </group>
      )}
    </>
  );
}
