import { Line } from "@react-three/drei";
import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import type { BufferGeometry } from "three";
import type { OrbitControls } from "three-stdlib";
import { nearLine, type SectionLine, useBench } from "./benchStore";

interface Props {
  /** A coarse mesh with its places on the picture, under the pointer instead of the fine one. */
  proxy: BufferGeometry;
  liftMm: number;
}

type Spot = [number, number];

const round = (value: number) => Math.round(value * 1e4) / 1e4;

/** The section line on the piece: hovered, and dragged across it. */
export function SectionInSpace({ proxy, liftMm }: Props) {
  const { path, along, line, setLine, hover } = useBench();
  const controls = useThree((state) => state.controls) as OrbitControls | null;
  const invalidate = useThree((state) => state.invalidate);
  const held = useRef<{ from: Spot; line: SectionLine }>(undefined);
  const points = useMemo(() => path.points.map(([x, y, z]): [number, number, number] => [x, y, z + liftMm]), [path, liftMm]);
  useEffect(() => invalidate(), [points, along, invalidate]);
  useEffect(() => {
    const stop = () => {
      held.current = undefined;
      if (controls) controls.enabled = true;
    };
    window.addEventListener("pointerup", stop);
    return () => window.removeEventListener("pointerup", stop);
  }, [controls]);

  const spotOf = (event: ThreeEvent<PointerEvent>): Spot | undefined => {
    const uv = event.uv;
    return uv ? [((uv.x % 1) + 1) % 1, uv.y] : undefined;
  };

  function press(event: ThreeEvent<PointerEvent>) {
    const spot = spotOf(event);
    if (event.button !== 0 || !spot || nearLine(line, spot) === undefined) return;
    held.current = { from: spot, line };
    if (controls) controls.enabled = false;
  }

  function move(event: ThreeEvent<PointerEvent>) {
    const spot = spotOf(event);
    const now = held.current;
    if (!spot) return;
    if (!now) {
      if (event.buttons === 0) hover(spot);
      return;
    }
    const old = now.line;
    const shift = [0, 1].map((i) => {
      const low = Math.min(old.start[i], old.end[i]);
      const high = Math.max(old.start[i], old.end[i]);
      return Math.min(1 - high, Math.max(-low, spot[i] - now.from[i]));
    });
    const moved = (p: Spot): Spot => [round(p[0] + shift[0]), round(p[1] + shift[1])];
    setLine({ start: moved(old.start), end: moved(old.end) });
  }

  const own = along === undefined ? -1 : (along - path.from) / (path.to - path.from);
  const at = own < 0 || own > 1 || points.length < 2 ? undefined : points[Math.round(own * (points.length - 1))];
  const spread = useMemo(() => {
    proxy.computeBoundingSphere();
    return proxy.boundingSphere?.radius ?? 50;
  }, [proxy]);
  return (
    <>
      <mesh geometry={proxy} visible={false} onPointerDown={press} onPointerMove={move} onPointerOut={() => !held.current && hover(undefined)} />
      {points.length > 1 && <Line points={points} color="#9A2B45" lineWidth={2} depthTest polygonOffset polygonOffsetFactor={-8} polygonOffsetUnits={-8} />}
      {at && (
        <mesh position={at}>
          <sphereGeometry args={[spread * 0.016, 16, 12]} />
          <meshBasicMaterial color="#9A2B45" />
        </mesh>
      )}
    </>
  );
}
