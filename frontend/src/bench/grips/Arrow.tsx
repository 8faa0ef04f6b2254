import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";
import { Quaternion, type Ray, Vector3 } from "three";
import type { OrbitControls } from "three-stdlib";
import type { Axis } from "../../shared/axes";
import { COLOURS } from "../../shared/colours";

export type Place = [number, number, number];

const WAYS: Record<Axis, Vector3> = { x: new Vector3(1, 0, 0), y: new Vector3(0, 1, 0), z: new Vector3(0, 0, 1) };
const UP = new Vector3(0, 1, 0);

/** How far along a line, from its origin, the pointer is: where its ray passes nearest. */
export function alongLine(ray: Pick<Ray, "origin" | "direction">, origin: Vector3, way: Vector3): number | undefined {
  const across = origin.clone().sub(ray.origin);
  const slant = way.dot(ray.direction);
  const room = 1 - slant * slant;
  if (room < 1e-4) return undefined; // seen end-on it says nothing
  return (slant * ray.direction.dot(across) - way.dot(across)) / room;
}

interface Props {
  at: Place;
  axis: Axis;
  long: number;
  /** Moved so far since it was taken, mm; `still` when it is let go. */
  onMove: (mm: number, still: boolean) => void;
}

/** A grip that is moved along an axis: two points on a rod. */
export function Arrow({ at, axis, long, onMove }: Props) {
  const controls = useThree((state) => state.controls) as OrbitControls | null;
  const invalidate = useThree((state) => state.invalidate);
  const [near, setNear] = useState(false);
  const held = useRef<{ origin: Vector3; from: number; moved: number }>(undefined);
  const way = WAYS[axis];
  const turn = useMemo(() => new Quaternion().setFromUnitVectors(UP, WAYS[axis]), [axis]);
  useEffect(() => invalidate(), [near, at, invalidate]);
  // Taken away while it is held, by an undo.
  useEffect(
    () => () => {
      if (held.current && controls) controls.enabled = true;
    },
    [controls],
  );

  function press(event: ThreeEvent<PointerEvent>) {
    if (event.button !== 0) return;
    event.stopPropagation();
    const origin = new Vector3(...at);
    const from = alongLine(event.ray, origin, way);
    if (from === undefined) return;
    held.current = { origin, from, moved: 0 };
    (event.target as Element).setPointerCapture(event.pointerId);
    if (controls) controls.enabled = false;
  }

  function move(event: ThreeEvent<PointerEvent>) {
    const now = held.current;
    if (!now) return;
    event.stopPropagation();
    const here = alongLine(event.ray, now.origin, way);
    if (here === undefined) return;
    now.moved = here - now.from;
    onMove(now.moved, false);
  }

  function letGo() {
    const now = held.current;
    held.current = undefined;
    if (controls) controls.enabled = true;
    if (now) onMove(now.moved, true);
  }

  const thick = long * 0.035;
  const colour = near ? COLOURS.madder : COLOURS.ink;
  return (
    <group position={at} quaternion={turn}>
      {[1, -1].map((end) => (
        <mesh key={end} position={[0, end * (long / 2), 0]} rotation={[end > 0 ? 0 : Math.PI, 0, 0]} renderOrder={4}>
          <coneGeometry args={[thick * 2.6, thick * 6, 16]} />
          <meshBasicMaterial color={colour} depthTest={false} transparent />
        </mesh>
      ))}
      <mesh renderOrder={4}>
        <cylinderGeometry args={[thick * 0.7, thick * 0.7, long, 10]} />
        <meshBasicMaterial color={colour} depthTest={false} transparent />
      </mesh>
      <mesh
        visible={false}
        onPointerDown={press}
        onPointerMove={move}
        onPointerUp={letGo}
        onPointerCancel={letGo}
        onPointerOver={() => setNear(true)}
        onPointerOut={() => setNear(false)}
      >
        <cylinderGeometry args={[thick * 5, thick * 5, long * 1.3, 8]} />
      </mesh>
    </group>
  );
}
