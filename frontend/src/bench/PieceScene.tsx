import { Line, OrbitControls } from "@react-three/drei";
import { addAfterEffect, useFrame, useThree } from "@react-three/fiber";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { Box3, type BufferGeometry, CanvasTexture, type PerspectiveCamera, type Sprite, Vector3 } from "three";
import type { OrbitControls as Controls } from "three-stdlib";
import type { Figures, Piece as OpenedPiece, Recipe } from "../api/client";
import { mm } from "../shared/format";
import { type NamedView, useBench } from "./benchStore";
import { fit, isLost } from "./framing";
import type { Look } from "./looks/look";
import { SectionInSpace } from "./SectionInSpace";
import { Pointing } from "./Pointing";
import { FinishGrips } from "./grips/FinishGrips";
import { DecorationGrips } from "./grips/Placing";
import { Spots } from "./Spots";
import "./threeWarnings";
import type { OpenPiece } from "./usePiece";
import type { ShownMesh } from "./usePieceMesh";
import { COLOURS } from "../shared/colours";

const DIRECTIONS: Record<NamedView, [number, number, number]> = {
  front: [0, -1, 0.0001],
  side: [1, 0, 0.0001],
  above: [0, -0.0001, 1],
  all: [0.2, -0.8, 1.0],
};

const STANDING: [number, number, number] = [0.3, -1, 0.55];

/** Once round in twelve seconds. */
const TURN_SPEED = 5;

/** What lies as it was brought: its underside is the table. */
const BODY = { kind: "body", round: false };

interface Props {
  piece: OpenedPiece;
  shown: ShownMesh;
  proxy: BufferGeometry | undefined;
  look: Look;
  recipe: Recipe;
  resting: boolean;
  onScale: (pxPerMm: number) => void;
  edit: OpenPiece["edit"];
}

/** What stands on the table: the piece, its shadow, two rulers, light and camera. */
export function PieceScene({ piece, shown, proxy, look, recipe, resting, onScale, edit }: Props) {
  const box = useMemo(() => {
    shown.geometry.computeBoundingBox();
    return shown.geometry.boundingBox ?? new Box3();
  }, [shown.geometry]);
  const standing = stands(shown.figures);
  const { kind, round } = shown.figures.form ?? BODY;
  const table = shown.figures.form ? 0 : box.min.z;
  return (
    <>
      <Lights standing={standing} />
      <Piece {...{ piece, shown, look, recipe, resting }} />
      <Pointing geometry={shown.geometry} sizeMm={Math.max(...shown.figures.mesh.size_mm)} />
      {proxy && shown.figures.form && <SectionInSpace proxy={proxy} liftMm={shown.figures.form.lift_mm} sizeMm={Math.max(...shown.figures.mesh.size_mm)} />}
      <group position={[0, 0, table]}>
        <Shadow geometry={shown.geometry} box={box} round={round} moving={shown.figures.form === null && shown.figures.quality === "draft"} />
        <Rulers box={box} ink={look.dark ? COLOURS.chalk : COLOURS.ruler} />
      </group>
      <Spots />
      <DecorationGrips recipe={recipe} figures={shown.figures} proxy={proxy} sizeMm={Math.max(...shown.figures.mesh.size_mm)} edit={edit} />
      <FinishGrips recipe={recipe} figures={shown.figures} proxy={proxy} sizeMm={Math.max(...shown.figures.mesh.size_mm)} edit={edit} />
      <Camera box={box} kind={kind} standing={standing} resting={resting} onScale={onScale} />
    </>
  );
}

/** Light of a lamp and of the sky. */
export function Lights({ standing }: { standing: boolean }) {
  return (
    <>
      <hemisphereLight args={[COLOURS.sky, COLOURS.ground, 1.05]} />
      {standing ? (
        <>
          <directionalLight position={[-150, -120, 90]} intensity={3.4} color={COLOURS.lamp} />
          <directionalLight position={[150, 60, 120]} intensity={0.9} color={COLOURS.lamp} />
        </>
      ) : (
        <>
          <directionalLight position={[-170, 95, 72]} intensity={4.2} color={COLOURS.lamp} />
          <directionalLight position={[60, -160, 40]} intensity={0.7} color={COLOURS.lamp} />
        </>
      )}
    </>
  );
}

/** Whether it stands upright, and is lit and first seen from the front. */
export function stands({ form, mesh }: Figures): boolean {
  const [wide, deep, high] = mesh.size_mm;
  return form?.standing ?? high > 0.7 * Math.max(wide, deep);
}

function Piece({ piece, shown, look, recipe, resting }: Omit<Props, "proxy" | "onScale" | "edit">) {
  const invalidate = useThree((state) => state.invalidate);
  const { geometry, timing, figures } = shown;
  useLayoutEffect(() => {
    invalidate();
    const stop = addAfterEffect(() => {
      stop();
      // How long a change took to reach the screen, for anyone who looks at the browser's timeline.
      performance.measure(`nebrel ${figures.quality}`, {
        start: timing.asked,
        end: performance.now(),
        detail: { server: timing.server, received: timing.received - timing.asked },
      });
    });
    return stop;
  }, [geometry, timing, figures, invalidate]);
  useEffect(() => () => geometry.dispose(), [geometry]);
  useEffect(() => invalidate(), [look, invalidate]);
  return <look.Surface key={look.id} piece={piece} shown={shown} recipe={recipe} resting={resting} />;
}

const SHADOW_PX = 256;
const SHADOW_EDGE = 30;
const MOST_IN_SHADOW = 6_000;

/** A soft shadow on the table, of what looks down on it. */
interface ShadowProps {
  geometry: BufferGeometry;
  box: Box3;
  round: boolean;
  /** It changes under somebody's hand: the shadow is that of before. */
  moving: boolean;
}

function Shadow({ geometry: now, box: within, round, moving }: ShadowProps) {
  const [kept, keep] = useState({ geometry: now, box: within });
  if (!moving && kept.geometry !== now) keep({ geometry: now, box: within });
  const { geometry, box } = moving ? kept : { geometry: now, box: within };
  const texture = useMemo(() => {
    const canvas = document.createElement("canvas");
    canvas.width = canvas.height = SHADOW_PX;
    const pen = canvas.getContext("2d");
    if (pen) {
      pen.filter = "blur(9px)";
      pen.fillStyle = "rgba(70, 58, 44, 0.42)";
      pen.fill(footprint(geometry, box) ?? plainFootprint(round));
    }
    return new CanvasTexture(canvas);
  }, [geometry, box, round]);
  useEffect(() => () => texture.dispose(), [texture]);
  const size = within.getSize(new Vector3());
  const longest = Math.max(size.x, size.y);
  const shift = Math.min(Math.max(size.z * 0.55, longest * 0.012), longest * 0.1);
  return (
    <mesh position={[(within.min.x + within.max.x) / 2 + shift, (within.min.y + within.max.y) / 2 - shift, -0.06]} renderOrder={-1}>
      <planeGeometry args={[size.x, size.y].map((side) => (side * SHADOW_PX) / (SHADOW_PX - 2 * SHADOW_EDGE)) as [number, number]} />
      <meshBasicMaterial map={texture} transparent depthWrite={false} />
    </mesh>
  );
}

function plainFootprint(round: boolean): Path2D {
  const path = new Path2D();
  const half = SHADOW_PX / 2;
  if (round) path.arc(half, half, half - SHADOW_EDGE, 0, 2 * Math.PI);
  else path.rect(SHADOW_EDGE, SHADOW_EDGE, SHADOW_PX - 2 * SHADOW_EDGE, SHADOW_PX - 2 * SHADOW_EDGE);
  return path;
}

/** All triangles that look down, from above; nothing where there are too many to be drawn quickly. */
function footprint(geometry: BufferGeometry, box: Box3): Path2D | undefined {
  const { index } = geometry;
  const at = geometry.getAttribute("position");
  if (!index || !at) return undefined;
  const size = box.getSize(new Vector3());
  const span = SHADOW_PX - 2 * SHADOW_EDGE;
  const x = (corner: number) => SHADOW_EDGE + ((at.getX(corner) - box.min.x) / (size.x || 1)) * span;
  const y = (corner: number) => SHADOW_EDGE + ((box.max.y - at.getY(corner)) / (size.y || 1)) * span;
  const path = new Path2D();
  // A path of many small triangles takes seconds: those go together, by the pixels that they are in.
  const small = new Uint8Array(SHADOW_PX * SHADOW_PX);
  let drawn = 0;
  for (let k = 0; k + 2 < index.count; k += 3) {
    const [a, b, c] = [index.getX(k), index.getX(k + 1), index.getX(k + 2)];
    const [ax, ay, bx, by, cx, cy] = [x(a), y(a), x(b), y(b), x(c), y(c)];
    // On the canvas y runs down, so what looks down runs to the left.
    if ((bx - ax) * (cy - ay) - (by - ay) * (cx - ax) <= 0) continue;
    if (Math.max(ax, bx, cx) - Math.min(ax, bx, cx) < 1.5 && Math.max(ay, by, cy) - Math.min(ay, by, cy) < 1.5) {
      small[Math.floor((ay + by + cy) / 3) * SHADOW_PX + Math.floor((ax + bx + cx) / 3)] = 1;
      continue;
    }
    if (++drawn > MOST_IN_SHADOW) return undefined;
    path.moveTo(ax, ay);
    path.lineTo(bx, by);
    path.lineTo(cx, cy);
    path.closePath();
  }
  const runs = addRuns(path, small);
  return drawn + runs > 0 ? path : undefined;
}

/** Every run of pixels along a row as one rectangle; how many there are. */
function addRuns(path: Path2D, pixels: Uint8Array): number {
  let runs = 0;
  for (let row = 0; row < SHADOW_PX; row++)
    for (let first = 0; first < SHADOW_PX; first++) {
      if (!pixels[row * SHADOW_PX + first]) continue;
      let last = first;
      while (last + 1 < SHADOW_PX && pixels[row * SHADOW_PX + last + 1]) last++;
      path.rect(first, row, last + 1 - first, 1);
      runs++;
      first = last;
    }
  return runs;
}

/** Rulers in mm on the table edge, along the front and the right side. */
function Rulers({ box, ink }: { box: Box3; ink: string }) {
  const { x: wide, y: tall } = box.getSize(new Vector3());
  const longest = Math.max(wide, tall);
  const power = 10 ** Math.floor(Math.log10(longest / 8));
  const step = ([1, 2, 5, 10].find((factor) => factor * power >= longest / 20) ?? 10) * power;
  const gap = longest * 0.045;
  const points = useMemo(() => {
    const list: [number, number, number][] = [];
    const tick = (index: number) => (index % 5 === 0 ? 2.2 : 1) * (longest * 0.011);
    list.push([0, -gap, 0], [wide, -gap, 0], [wide + gap, 0, 0], [wide + gap, tall, 0]);
    for (let i = 0; i * step <= wide + 1e-6; i++) list.push([i * step, -gap, 0], [i * step, -gap - tick(i), 0]);
    for (let i = 0; i * step <= tall + 1e-6; i++) list.push([wide + gap, i * step, 0], [wide + gap + tick(i), i * step, 0]);
    return list;
  }, [wide, tall, step, gap, longest]);
  return (
    <group position={[box.min.x, box.min.y, 0]}>
      <Line points={points} segments color={ink} lineWidth={1} />
      <Label at={[wide / 2, -gap * 2.4, 0]} text={`${mm(wide, 1)} mm`} ink={ink} />
      <Label at={[wide + gap * 2.7, tall / 2, 0]} text={`${mm(tall, 1)} mm`} ink={ink} />
    </group>
  );
}

/** A short text that always faces the eye, as high as the figures on the rulers. */
function Label({ at, text, ink }: { at: [number, number, number]; text: string; ink: string }) {
  const { texture, aspect } = useMemo(() => {
    const canvas = document.createElement("canvas");
    const font = '44px "Atkinson Hyperlegible Mono Variable", monospace';
    const pen = canvas.getContext("2d");
    if (!pen) return { texture: null, aspect: 1 };
    pen.font = font;
    canvas.width = Math.ceil(pen.measureText(text).width) + 8;
    canvas.height = 60;
    pen.font = font;
    pen.fillStyle = ink;
    pen.fillText(text, 4, 46);
    return { texture: new CanvasTexture(canvas), aspect: canvas.width / canvas.height };
  }, [text, ink]);
  const height = 0.0135;
  const sprite = useRef<Sprite>(null);
  // Seen edge-on the rulers are a line, and their numbers would lie on the piece.
  useFrame(({ camera }) => {
    const down = camera.getWorldDirection(new Vector3()).z;
    if (sprite.current) sprite.current.visible = Math.abs(down) > 0.2;
  });
  return (
    <sprite ref={sprite} position={at} scale={[height * aspect, height, 1]}>
      <spriteMaterial map={texture} sizeAttenuation={false} depthTest={false} transparent />
    </sprite>
  );
}

interface CameraProps {
  box: Box3;
  kind: string;
  standing: boolean;
  /** Nothing is under way that a hand holds. */
  resting: boolean;
  onScale: (pxPerMm: number) => void;
}

/** All of a box, seen from its middle towards an eye. */
function lookAt(camera: PerspectiveCamera, controls: Controls, box: Box3, eye: Vector3, aspect: number) {
  const target = box.getCenter(new Vector3());
  const distance = fit(camera, box, target, eye, aspect);
  camera.position.copy(target).addScaledVector(eye, distance);
  camera.near = distance / 50;
  camera.far = distance * 20;
  camera.updateProjectionMatrix();
  controls.target.copy(target);
  controls.update();
}

function Camera({ box, kind, standing, resting, onScale }: CameraProps) {
  const controls = useRef<Controls>(null);
  const wish = useBench((state) => state.wish);
  const { size, invalidate } = useThree();
  const camera = useThree((state) => state.camera) as PerspectiveCamera;
  const placed = useRef("");
  const aspect = useRef(1);
  const lastScale = useRef(0);
  const extent = useRef(box);
  const framed = useRef(new Box3());
  useLayoutEffect(() => {
    extent.current = box;
  }, [box]);

  // A named view is taken when it is asked for, once at the start, and when the piece takes
  // another form; any other change leaves the camera where the person put it.
  useLayoutEffect(() => {
    const asked = `${wish.at} ${kind}`;
    if (placed.current === asked || !controls.current || size.height === 0) return;
    placed.current = asked;
    aspect.current = size.width / size.height;
    const target = extent.current.getCenter(new Vector3());
    const way = standing && wish.view === "all" ? STANDING : DIRECTIONS[wish.view];
    const eye = new Vector3(...way).normalize();
    camera.position.copy(target).addScaledVector(eye, 100);
    camera.up.set(0, 0, 1);
    camera.lookAt(target);
    camera.updateMatrixWorld();
    framed.current = extent.current;
    lookAt(camera, controls.current, extent.current, eye, size.width / size.height);
    invalidate();
  }, [wish, kind, standing, camera, size, invalidate]);

  // Another size is brought into view, from where it was seen.
  useLayoutEffect(() => {
    if (!resting || !controls.current || size.height === 0 || framed.current === box) return;
    const before = framed.current;
    framed.current = box;
    if (before.isEmpty() || !isLost(camera, before, box)) return;
    const eye = camera.position.clone().sub(controls.current.target).normalize();
    lookAt(camera, controls.current, box, eye, size.width / size.height);
    invalidate();
  }, [box, resting, camera, size, invalidate]);

  // In another room the piece takes the same share of it as before.
  useLayoutEffect(() => {
    const now = size.width / size.height;
    if (!controls.current || size.height === 0 || now === aspect.current) return;
    const target = controls.current.target;
    const distance = camera.position.distanceTo(target);
    const eye = camera.position.clone().sub(target).divideScalar(distance);
    const before = fit(camera, extent.current, target, eye, aspect.current);
    const wanted = (distance / before) * fit(camera, extent.current, target, eye, now);
    camera.position.copy(target).addScaledVector(eye, wanted);
    aspect.current = now;
    controls.current.update();
    invalidate();
  }, [camera, size, invalidate]);

  useFrame(() => {
    if (!controls.current) return;
    const distance = camera.position.distanceTo(controls.current.target);
    const scale = size.height / (2 * distance * Math.tan((camera.fov * Math.PI) / 360));
    if (Math.abs(scale - lastScale.current) > 1e-3 * scale) {
      lastScale.current = scale;
      onScale(scale);
    }
  });
  const turning = useBench((state) => state.turning);
  useEffect(() => invalidate(), [turning, invalidate]);
  return <OrbitControls ref={controls} makeDefault enableDamping={false} zoomToCursor autoRotate={turning} autoRotateSpeed={TURN_SPEED} />;
}
