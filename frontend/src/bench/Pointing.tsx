import { Line } from "@react-three/drei";
import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { type BufferAttribute, type BufferGeometry, Color, DoubleSide, Mesh, MeshBasicMaterial, Raycaster, Vector3 } from "three";
import { COLOURS } from "../shared/colours";
import { mm } from "../shared/format";
import { MEASURE, type Picked, usePieceStore } from "./pieceStore";

type Place = [number, number, number];

/** Takes what is pointed at in the piece, and draws what was. */
export function Pointing({ geometry, sizeMm }: { geometry: BufferGeometry; sizeMm: number }) {
  const { picking, onPick, measured } = usePieceStore();
  const invalidate = useThree((state) => state.invalidate);
  useEffect(() => invalidate(), [measured, picking, invalidate]);
  const walls = useMemo(() => new Mesh(geometry, new MeshBasicMaterial({ side: DoubleSide })), [geometry]);

  function point(event: ThreeEvent<MouseEvent>) {
    // A drag turns the piece.
    if (!onPick || !event.face || event.delta > 4) return;
    event.stopPropagation();
    const { normal } = event.face;
    const start = event.point.clone().addScaledVector(normal, -sizeMm * 1e-5);
    const [other] = new Raycaster(start, normal.clone().negate()).intersectObject(walls);
    onPick({ place: event.point.toArray(), normal: normal.toArray(), wall: other?.distance, colour: colourAt(event) });
  }

  /** That of the corner nearest to the place. */
  function colourAt({ point, face }: ThreeEvent<MouseEvent>): string | undefined {
    if (!face || !geometry.hasAttribute("color")) return undefined;
    const at = geometry.getAttribute("position");
    const away = (corner: number) => new Vector3().fromBufferAttribute(at, corner).distanceToSquared(point);
    const [nearest] = [face.a, face.b, face.c].sort((a, b) => away(a) - away(b));
    return `#${new Color().fromBufferAttribute(geometry.getAttribute("color") as BufferAttribute, nearest).getHexString()}`;
  }

  const places = measured.map(({ place }) => place);
  return (
    <>
      {picking !== undefined && <mesh geometry={geometry} visible={false} onClick={point} />}
      {places.length > 1 && <Line points={places} color={COLOURS.madder} lineWidth={2} depthTest={false} renderOrder={3} />}
      {places.map((place) => (
        <mesh key={place.join()} position={place} renderOrder={3}>
          <sphereGeometry args={[sizeMm * 0.008, 16, 12]} />
          <meshBasicMaterial color={COLOURS.madder} depthTest={false} />
        </mesh>
      ))}
    </>
  );
}

/** Turns measuring on and off, and says what was measured. */
export function MeasureBar() {
  const { picking, pick, measured, measure } = usePieceStore();
  const on = picking === MEASURE;
  const stop = () => {
    pick(undefined);
    measure([]);
  };
  // A fourth place begins anew.
  const take = (now: Picked[]) => (picked: Picked) => {
    const next = now.length >= 3 ? [picked] : [...now, picked];
    measure(next);
    pick(MEASURE, take(next));
  };
  return (
    <>
      <button type="button" className="chip" aria-pressed={on} onClick={() => (on ? stop() : pick(MEASURE, take([])))}>
        measure
      </button>
      {on && (
        <span className="chip mono" role="status">
          {words(measured)}
        </span>
      )}
    </>
  );
}

const away = (a: Place, b: Place) => new Vector3(...a).distanceTo(new Vector3(...b));

/** One place: how thick it is there. Two: how far apart. Three: the angle, and the circle through them. */
export function words(measured: Picked[]): string {
  const [a, b, c] = measured;
  if (!a) return "point at the piece";
  if (!b) return a.wall === undefined ? "open on the other side" : `${mm(a.wall, 3)} mm thick here`;
  if (!c) {
    const sides = a.place.map((side, i) => `${"xyz"[i]} ${mm(Math.abs(b.place[i] - side), 2)}`);
    return `${mm(away(a.place, b.place), 3)} mm apart (${sides.join(", ")})`;
  }
  const [one, two, three] = [away(a.place, b.place), away(b.place, c.place), away(a.place, c.place)];
  const angle = new Vector3(...a.place).sub(new Vector3(...b.place)).angleTo(new Vector3(...c.place).sub(new Vector3(...b.place)));
  const sine = Math.sin(angle);
  const round = sine > 1e-6 ? `, circle through them ${mm(three / sine, 3)} mm across` : "";
  return `first to second ${mm(one, 3)} mm, to third ${mm(two, 3)} mm, angle ${mm((angle * 180) / Math.PI, 1)}°${round}`;
}
