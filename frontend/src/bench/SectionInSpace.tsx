import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import { BufferGeometry, Float32BufferAttribute, Vector3 } from "three";
import type { OrbitControls } from "three-stdlib";
import { nearLine, type SectionLine, useBench } from "./benchStore";
import { usePieceStore } from "./pieceStore";
import { COLOURS } from "../shared/colours";

interface Props {
  /** A coarse mesh with its places on the picture, under the pointer instead of the fine one. */
  proxy: BufferGeometry;
  liftMm: number;
  /** The longer side of the piece, which says how thick a line must be. */
  sizeMm: number;
}

type Spot = [number, number];

const round = (value: number) => Math.round(value * 1e4) / 1e4;

/** The section line on the piece: hovered, and dragged across it. */
export function SectionInSpace({ proxy, liftMm, sizeMm }: Props) {
  const { line, setLine } = useBench();
  const { path, along, hover } = usePieceStore();
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
  const ribbon = useMemo(() => (points.length > 1 ? thread(points, sizeMm * 0.0022) : undefined), [points, sizeMm]);
  useEffect(() => () => ribbon?.dispose(), [ribbon]);
  return (
    <>
      <mesh geometry={proxy} visible={false} onPointerDown={press} onPointerMove={move} onPointerOut={() => !held.current && hover(undefined)} />
      {ribbon && (
        <mesh geometry={ribbon}>
          <meshBasicMaterial color={COLOURS.madder} />
        </mesh>
      )}
      {at && (
        <mesh position={at}>
          <sphereGeometry args={[sizeMm * 0.009, 16, 12]} />
          <meshBasicMaterial color={COLOURS.madder} />
        </mesh>
      )}
    </>
  );
}

/** A thin three-sided thread along points: far cheaper to draw than a line of constant width. */
function thread(points: [number, number, number][], radius: number): BufferGeometry {
  const places: number[] = [];
  const index: number[] = [];
  const along = new Vector3();
  const side = new Vector3();
  const up = new Vector3();
  points.forEach((point, i) => {
    const before = points[Math.max(0, i - 1)];
    const after = points[Math.min(points.length - 1, i + 1)];
    along.set(after[0] - before[0], after[1] - before[1], after[2] - before[2]).normalize();
    side.set(0, 0, 1);
    if (Math.abs(along.z) > 0.9) side.set(0, 1, 0);
    side.cross(along).normalize();
    up.crossVectors(along, side);
    for (let corner = 0; corner < 3; corner++) {
      const angle = (corner * 2 * Math.PI) / 3 + Math.PI / 2;
      const [a, b] = [Math.cos(angle) * radius, Math.sin(angle) * radius];
      places.push(point[0] + side.x * a + up.x * b, point[1] + side.y * a + up.y * b, point[2] + side.z * a + up.z * b);
      if (i === 0) continue;
      const [here, next] = [i * 3 + corner, i * 3 + ((corner + 1) % 3)];
      index.push(here - 3, next - 3, here, next - 3, next, here);
    }
  });
  const made = new BufferGeometry();
  made.setAttribute("position", new Float32BufferAttribute(places, 3));
  made.setIndex(index);
  return made;
}
