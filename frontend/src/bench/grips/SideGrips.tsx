import { Line } from "@react-three/drei";
import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useRef, useState } from "react";
import { Plane, type Ray, Vector3 } from "three";
import type { OrbitControls } from "three-stdlib";
import type { Decoration, Figures } from "../../api/client";
import { COLOURS } from "../../shared/colours";
import { resized } from "../steps/decorations";
import type { Place } from "./Arrow";

interface Props {
  step: Decoration;
  figures: Figures;
  sizeMm: number;
  put: (part: Partial<Decoration>, label: string, still: boolean) => void;
}

type Held = { step: Decoration; middle: Vector3; from: Vector3; normal: Vector3; part: Partial<Decoration> };
type Way = "size" | "turn";

/** Where the pointer is in the plane in which a decoration lies at its middle. */
function inPlane(ray: Ray, { middle, normal }: Pick<Held, "middle" | "normal">): Vector3 | undefined {
  return ray.intersectPlane(new Plane().setFromNormalAndCoplanarPoint(normal, middle), new Vector3()) ?? undefined;
}

/** What a grip makes of where it was dragged: so many times as large, or so far to the left. */
export function dragged(way: Way, { step, middle, from, normal }: Omit<Held, "part">, to: Vector3): Partial<Decoration> {
  const [was, now] = [from, to].map((place) => place.clone().sub(middle).projectOnPlane(normal));
  if (now.length() < 1e-6 || was.length() < 1e-6) return {};
  if (way === "size") return resized(step, now.length() / was.length());
  const left = was.clone().cross(now).dot(normal) > 0 ? 1 : -1;
  const turned = step.turn + (left * was.angleTo(now) * 180) / Math.PI;
  return { turn: Number((((((turned + 180) % 360) + 360) % 360) - 180).toFixed(1)) };
}

/** A grip at its right side that sizes it, and one at its upper side that turns it. */
export function SideGrips({ step, figures, sizeMm, put }: Props) {
  const controls = useThree((state) => state.controls) as OrbitControls | null;
  const invalidate = useThree((state) => state.invalidate);
  const [near, setNear] = useState<Way>();
  const held = useRef<Held>(undefined);
  const grips = figures.decorations.find(({ decoration_id }) => decoration_id === step.id)?.grips;
  useEffect(() => invalidate(), [near, grips, invalidate]);
  useEffect(
    () => () => {
      if (held.current && controls) controls.enabled = true;
    },
    [controls],
  );
  if (!grips || grips.length < 3) return null;
  const [middle, right, above] = grips.map((place) => new Vector3(...(place as Place)));
  const normal = right.clone().sub(middle).cross(above.clone().sub(middle)).normalize();

  const press = (way: Way) => (event: ThreeEvent<PointerEvent>) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    const start = { step, middle, normal, part: {} };
    const from = inPlane(event.ray, start);
    if (!from) return;
    held.current = { ...start, from: way === "size" ? right : from };
    (event.target as Element).setPointerCapture(event.pointerId);
    if (controls) controls.enabled = false;
  };
  const move = (way: Way) => (event: ThreeEvent<PointerEvent>) => {
    if (!held.current) return;
    event.stopPropagation();
    const to = inPlane(event.ray, held.current);
    if (!to) return;
    held.current.part = dragged(way, held.current, to);
    put(held.current.part, way, false);
  };
  const letGo = (way: Way) => () => {
    if (controls) controls.enabled = true;
    if (held.current) put(held.current.part, way, true);
    held.current = undefined;
  };
  return (
    <>
      <Line
        points={[right.toArray(), middle.toArray(), above.toArray()]}
        color={COLOURS.madder}
        lineWidth={1.5}
        transparent
        opacity={0.7}
        depthTest={false}
        renderOrder={4}
      />
      {(["size", "turn"] as const).map((way) => (
        <group key={way} position={way === "size" ? right : above}>
          <mesh renderOrder={5}>
            {way === "size" ? (
              <boxGeometry args={[0.022, 0.022, 0.022].map((side) => side * sizeMm) as Place} />
            ) : (
              <sphereGeometry args={[sizeMm * 0.014, 20, 14]} />
            )}
            <meshBasicMaterial color={near === way ? COLOURS.ink : COLOURS.madder} depthTest={false} transparent />
          </mesh>
          <mesh
            visible={false}
            userData={{ grip: way }}
            onPointerDown={press(way)}
            onPointerMove={move(way)}
            onPointerUp={letGo(way)}
            onPointerCancel={letGo(way)}
            onPointerOver={() => setNear(way)}
            onPointerOut={() => setNear(undefined)}
          >
            <sphereGeometry args={[sizeMm * 0.03, 12, 8]} />
          </mesh>
        </group>
      ))}
    </>
  );
}
