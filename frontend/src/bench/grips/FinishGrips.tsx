import { useEffect } from "react";
import type { BufferGeometry } from "three";
import { DoubleSide } from "three";
import type { Figures, FinishStep, Recipe } from "../../api/client";
import { AXES, type Axis } from "../../shared/axes";
import { COLOURS } from "../../shared/colours";
import { change, finishSteps } from "../at";
import { usePieceStore } from "../pieceStore";
import { liesAsShown } from "../steps/finish/finishing";
import { stopOf } from "../stops";
import type { OpenPiece } from "../usePiece";
import { Arrow, type Place } from "./Arrow";
import { Brush } from "./Brush";

interface Props {
  recipe: Recipe;
  figures: Figures;
  /** What is under the pointer: the draft, which is found quickly. */
  proxy: BufferGeometry | undefined;
  sizeMm: number;
  edit: OpenPiece["edit"];
}

/** What of the open finish step is held in the piece itself: a plane, a place, a brush. */
export function FinishGrips({ recipe, figures, proxy, sizeMm, edit }: Props) {
  const stop = usePieceStore((state) => state.stop);
  const chosen = usePieceStore((state) => state.chosen.finish);
  const list = finishSteps.read(recipe);
  const step = list.find((one) => one.id === chosen);
  const done = figures.steps.find(({ step_id }) => step_id === chosen);
  if (!step?.enabled || !done || stopOf(recipe, stop).id !== "finish") return null;
  if (!liesAsShown(list, step)) return null;
  const set = (part: Partial<FinishStep>, still: boolean) =>
    edit(
      change(finishSteps, (now) => now.map((one) => (one.id === step.id ? ({ ...one, ...part } as FinishStep) : one))),
      step.kind,
      still,
    );
  const box = { low: done.low_mm, size: done.before.size_mm };
  if (step.kind === "trim" || (step.kind === "split" && step.into === "halves"))
    return <Plane key={step.id} step={step} box={box} onMove={(mm, still) => set({ at: { mm, text: null } }, still)} />;
  if (step.kind === "join") return <Places key={step.id} step={step} sizeMm={sizeMm} set={set} />;
  if ((step.kind === "push" || (step.kind === "smooth" && step.where === "brush")) && proxy)
    return <Brush key={step.id} step={step} proxy={proxy} sizeMm={sizeMm} set={set} />;
  return null;
}

interface PlaneProps {
  step: Extract<FinishStep, { kind: "trim" | "split" }>;
  box: { low: number[]; size: number[] };
  onMove: (mm: number, still: boolean) => void;
}

/** The plane of a trim or a split, with the grip that moves it along its axis. */
function Plane({ step, box, onMove }: PlaneProps) {
  const axis = AXES.indexOf(step.axis);
  const reach = Math.max(...box.size);
  const centre = box.low.map((low, i) => (i === axis ? step.at.mm : low + box.size[i] / 2)) as Place;
  const [wide, tall] = [(axis + 1) % 3, (axis + 2) % 3].map((i) => box.size[i] + reach * 0.12);
  const turn = (
    [
      [0, Math.PI / 2, Math.PI / 2],
      [-Math.PI / 2, 0, -Math.PI / 2],
      [0, 0, 0],
    ] as Place[]
  )[axis];
  // Beside the piece, towards whoever looks from the front.
  const grip = [...centre] as Place;
  grip[axis === 0 ? 1 : 0] += ((axis === 0 ? -1 : 1) * (box.size[axis === 0 ? 1 : 0] + reach * 0.12)) / 2;
  const [least, most] = [box.low[axis], box.low[axis] + box.size[axis]];
  const held = (mm: number) => Number(Math.min(most, Math.max(least, mm)).toFixed(2));
  return (
    <>
      <mesh position={centre} rotation={turn} raycast={() => undefined} renderOrder={2}>
        <planeGeometry args={[wide, tall]} />
        <meshBasicMaterial color={COLOURS.madder} transparent opacity={0.16} side={DoubleSide} depthWrite={false} />
      </mesh>
      <Moved at={grip} axis={step.axis} long={reach * 0.16} value={step.at.mm} onMove={(mm, still) => onMove(held(mm), still)} />
    </>
  );
}

interface PlacesProps {
  step: Extract<FinishStep, { kind: "join" }>;
  sizeMm: number;
  set: (part: Partial<FinishStep>, still: boolean) => void;
}

/** Where what is joined lies: a grip an axis. */
function Places({ step, sizeMm, set }: PlacesProps) {
  const at: Place = [step.x.mm, step.y.mm, step.z.mm];
  return AXES.map((axis, i) => (
    <Moved
      key={axis}
      at={at}
      axis={axis}
      long={sizeMm * 0.24}
      value={at[i]}
      onMove={(mm, still) => set({ [axis]: { mm: Number(mm.toFixed(2)), text: null } }, still)}
    />
  ));
}

interface MovedProps {
  at: Place;
  axis: Axis;
  long: number;
  value: number;
  onMove: (mm: number, still: boolean) => void;
}

/** An arrow that changes a number: from what it was when it was taken. */
function Moved({ at, axis, long, value, onMove }: MovedProps) {
  const from = usePieceStore((state) => state.heldFrom);
  const hold = usePieceStore((state) => state.hold);
  useEffect(() => () => hold(undefined), [hold]);
  return (
    <Arrow
      at={at}
      axis={axis}
      long={long}
      onMove={(mm, still) => {
        const start = from ?? value;
        hold(still ? undefined : start);
        onMove(start + mm, still);
      }}
    />
  );
}
