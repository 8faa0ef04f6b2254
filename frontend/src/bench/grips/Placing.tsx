import { type ThreeEvent, useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import { type BufferGeometry, Vector3 } from "three";
import type { OrbitControls } from "three-stdlib";
import type { AnyDecoration, Decoration, Figures, Recipe, Texture } from "../../api/client";
import { newId } from "../../api/fresh";
import { COLOURS } from "../../shared/colours";
import { change, decorations } from "../at";
import { usePieceStore } from "../pieceStore";
import { showError } from "../../shared/notices";
import { resized } from "../steps/decorations";
import { fading, strokeOver } from "../steps/decorations/spots";
import { SideGrips } from "./SideGrips";
import { stopOf } from "../stops";
import type { OpenPiece } from "../usePiece";
import type { Place } from "./Arrow";
import { Brush } from "./Brush";

interface Props {
  recipe: Recipe;
  figures: Figures;
  proxy: BufferGeometry | undefined;
  sizeMm: number;
  edit: OpenPiece["edit"];
}

/** What is nearer than this, of its size, to the middle of the body is caught by it. */
const CATCH = 0.03;

interface Held {
  at: Place;
  normal: Vector3;
  step: Decoration;
  part: Partial<Decoration>;
}

/** What of the open decoration is held in the piece itself: its place, or the brush of a texture. */
export function DecorationGrips(props: Props) {
  const { recipe, proxy, sizeMm, edit } = props;
  const stop = usePieceStore((state) => state.stop);
  const chosen = usePieceStore((state) => state.chosen.decorations);
  if (recipe.begins.kind !== "body" || stopOf(recipe, stop).id !== "decorations") return null;
  const open = decorations.read(recipe).find(({ id, enabled }) => enabled && id === chosen);
  const put = (part: Partial<AnyDecoration>, label: string, still: boolean) =>
    edit(
      change(decorations, (now) => now.map((old) => (old.id === open?.id ? ({ ...old, ...part } as AnyDecoration) : old))),
      label,
      still,
    );
  if (open?.kind === "texture")
    return open.where === "brush" && proxy ? (
      <Brush key={open.id} step={open} proxy={proxy} sizeMm={sizeMm} set={(part, still) => put(part, "texture", still)} />
    ) : null;
  return (
    <>
      <Placing {...props} />
      {open?.fade_to === "brush" && proxy && <FadeBrush step={open} recipe={recipe} proxy={proxy} sizeMm={sizeMm} put={put} />}
    </>
  );
}

type Put = (part: Partial<AnyDecoration>, label: string, still: boolean) => void;

/** Strokes over the piece become strokes over the art, and go with it. */
function FadeBrush({ step, recipe, proxy, sizeMm, put }: { step: Decoration; recipe: Recipe; proxy: BufferGeometry; sizeMm: number; put: Put }) {
  const now = useRef(step);
  useEffect(() => {
    now.current = step;
  }, [step]);
  async function set({ strokes }: { strokes: Texture["strokes"] }) {
    const [run] = strokes;
    if (!run) return;
    try {
      const stroke = await strokeOver(recipe, step, run.places as Place[], run.size.mm);
      if (stroke) put({ fade_strokes: [...now.current.fade_strokes, stroke] }, "fade", true);
    } catch (error) {
      showError(error);
    }
  }
  return <Brush step={{ id: fading(step), strokes: [] }} proxy={proxy} sizeMm={sizeMm} set={(part) => void set(part)} />;
}

/** The decoration that is open is laid where one points; it slides, or is sized and turned, as one drags. */
function Placing({ recipe, figures, proxy, sizeMm, edit }: Props) {
  const controls = useThree((state) => state.controls) as OrbitControls | null;
  const invalidate = useThree((state) => state.invalidate);
  const stop = usePieceStore((state) => state.stop);
  const { picking, laying, catching } = usePieceStore();
  const held = useRef<Held>(undefined);
  const here = recipe.begins.kind === "body" && stopOf(recipe, stop).id === "decorations";
  const one = here ? decorations.read(recipe).find((old): old is Decoration => old.kind === "decoration" && old.enabled && old.id === picking) : undefined;
  useEffect(() => invalidate(), [one, invalidate]);
  useEffect(
    () => () => {
      if (held.current && controls) controls.enabled = true;
    },
    [controls],
  );
  if (!one || !proxy) return null;

  const gesture = laying === "draw" ? "size and turn" : "place";

  function put(part: Partial<Decoration>, label: string, still: boolean) {
    edit(
      change(decorations, (now) => now.map((old) => (old.id === one?.id ? ({ ...old, ...part } as Decoration) : old))),
      label,
      still,
    );
  }

  /** Where it is let go, caught by the middle of the body where that is near. */
  function placeOf(point: Vector3): Place {
    const { low_mm: low, size_mm: size } = figures.mesh;
    return point.toArray().map((side, i) => {
      const middle = low[i] + size[i] / 2;
      return Number((catching && Math.abs(side - middle) < CATCH * sizeMm ? middle : side).toFixed(3));
    }) as Place;
  }

  function press(event: ThreeEvent<PointerEvent>) {
    if (event.button !== 0 || !event.face || !one) return;
    event.stopPropagation();
    if (laying === "press") {
      const another = { ...one, id: newId("decoration"), name: "", at: placeOf(event.point) };
      edit(
        change(decorations, (now) => [...now, another]),
        "press it again",
        true,
      );
      return;
    }
    (event.target as Element).setPointerCapture(event.pointerId);
    if (controls) controls.enabled = false;
    const at = placeOf(event.point);
    held.current = { at, normal: event.face.normal.clone(), step: one, part: { at } };
    put(held.current.part, gesture, false);
  }

  function move(event: ThreeEvent<PointerEvent>) {
    if (!held.current || !event.face) return;
    event.stopPropagation();
    held.current.part = laying === "draw" ? drawn(held.current, event.point, sizeMm) : { at: placeOf(event.point) };
    put(held.current.part, gesture, false);
  }

  function letGo() {
    if (controls) controls.enabled = true;
    if (held.current) put(held.current.part, gesture, true);
    held.current = undefined;
  }

  return (
    <>
      <mesh geometry={proxy} visible={false} onPointerDown={press} onPointerMove={move} onPointerUp={letGo} onPointerCancel={letGo} />
      <mesh position={one.at as Place} renderOrder={3}>
        <sphereGeometry args={[sizeMm * 0.008, 16, 12]} />
        <meshBasicMaterial color={COLOURS.madder} depthTest={false} />
      </mesh>
      {laying === "slide" && <SideGrips step={one} figures={figures} sizeMm={sizeMm} put={put} />}
    </>
  );
}

/** From its middle to its right edge: half of its width, and which way its right is. */
function drawn({ at, normal, step }: Held, to: Vector3, sizeMm: number): Partial<Decoration> {
  const out = to.clone().sub(new Vector3(...at));
  const half = out.length();
  const along = out.sub(normal.clone().multiplyScalar(out.dot(normal)));
  if (half < sizeMm * 0.01 || along.length() < 1e-6) return { at };
  const up = new Vector3(...(step.up as Place));
  let ahead = up.sub(normal.clone().multiplyScalar(up.dot(normal)));
  if (ahead.length() < 1e-3) ahead = new Vector3(0, 1, 0).sub(normal.clone().multiplyScalar(normal.y));
  ahead.normalize();
  const right = ahead.clone().cross(normal);
  const turn = (Math.atan2(along.dot(ahead), along.dot(right)) * 180) / Math.PI;
  const wide = step.art.picture?.along === "wide" ? step.art.picture.side.mm * step.times : undefined;
  const size = wide ? resized(step, (2 * half) / wide) : {};
  return { at, turn: Number(turn.toFixed(1)), ...size };
}
