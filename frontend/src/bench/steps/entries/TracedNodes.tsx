import { type KeyboardEvent, useRef } from "react";
import { COLOURS } from "../../../shared/colours";
import { type Frame, type Spot, toScreen, toShare } from "../../picture/frame";
import { useDrag, useKeyDrag } from "../../picture/grips";
import type { HandlesProps } from "../kinds";
import type { Made } from "./entry";
import { nearestOn, toMm } from "./places";
import { type Node, type Parts, useParts } from "./useParts";

type Trace = Made<"traced">["trace"];
type Change = Trace["nodes"][number];

const SNAP_PX = 6;
const SAME_MM = 2e-3;

/** What was done by hand so far, and a node put elsewhere: one that was put there before is put again. */
export function moved(nodes: Trace["nodes"], from: Spot, to: Spot, size: Spot): Trace["nodes"] {
  const [at, put] = [toMm(from, size), toMm(to, size)];
  const known = nodes.findLastIndex(({ to_x, to_y }) => to_x && to_y && Math.hypot(to_x.mm - at.x.mm, to_y.mm - at.y.mm) < SAME_MM);
  const last = nodes.slice(known + 1).every(({ does }) => does === "move" || does === "add");
  const there = { to_x: put.x, to_y: put.y };
  if (known >= 0 && last) return nodes.map((one, k) => (k === known ? { ...one, ...there } : one) as Change);
  return [...nodes, { does: "move", ...at, ...there } as Change];
}

const done = (nodes: Trace["nodes"], does: Change["does"], at: Spot, size: Spot): Trace["nodes"] => [
  ...nodes,
  { does, ...toMm(at, size), to_x: null, to_y: null } as Change,
];

/** The nodes of the curves over the picture: dragged, added on the line, taken away, made smooth or sharp. */
export function TracedNodes({ step, word, recipe, frame, change }: HandlesProps<Made<"traced">>) {
  const { data: parts } = useParts(recipe, step);
  if (!parts || !step.enabled) return null;
  const size = parts.picture_mm;
  const set = (nodes: Trace["nodes"], resting = true) => change({ trace: { ...step.trace, nodes } }, resting, `node of ${word}`);
  const line = parts.parts
    .filter((part) => !part.left_out)
    .flatMap((part) => part.loops)
    .map(
      (loop) =>
        `M${loop
          .map((share) =>
            toScreen(frame, share)
              .map((value) => value.toFixed(1))
              .join(" "),
          )
          .join("L")}Z`,
    )
    .join("");
  return (
    <g>
      <path
        className="node-line"
        d={line}
        onClick={(event) => {
          const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
          if (!box) return;
          const at = toShare(frame, [event.clientX - box.left, event.clientY - box.top]);
          set(done(step.trace.nodes, "add", nearestOn(loops(parts), at, size)?.place ?? at, size));
        }}
      >
        <title>Click to put a node here</title>
      </path>
      {parts.nodes.map((node, k) => (
        <NodeGrip key={k} node={node} number={k + 1} parts={parts} frame={frame} trace={step.trace} set={set} />
      ))}
    </g>
  );
}

const loops = (parts: Parts) => parts.parts.filter((part) => !part.left_out).flatMap((part) => part.loops);

interface GripProps {
  node: Node;
  number: number;
  parts: Parts;
  frame: Frame;
  trace: Trace;
  set: (nodes: Trace["nodes"], resting?: boolean) => void;
}

function NodeGrip({ node, number, parts, frame, trace, set }: GripProps) {
  const before = useRef<{ place: Spot; nodes: Trace["nodes"] }>(undefined);
  const size = parts.picture_mm;
  const spot = toScreen(frame, node.place);
  const pull = (to: Spot, _: Spot, resting: boolean, shift: boolean) => {
    const held = (before.current ??= { place: node.place, nodes: trace.nodes });
    const share = toShare(frame, to);
    const near = shift ? undefined : nearestOn(loops(parts), share, size);
    const snapped = near && (near.mm * frame.width) / frame.wideMm < SNAP_PX ? near.place : share;
    if (Math.hypot(to[0] - toScreen(frame, held.place)[0], to[1] - toScreen(frame, held.place)[1]) > 0.5)
      set(moved(held.nodes, held.place, snapped, size), resting);
    if (resting) before.current = undefined;
  };
  const drag = useDrag(pull);
  const keys = useKeyDrag(frame, spot, (to, from) => pull(to, from, true, true));
  const key = (event: KeyboardEvent<SVGElement>) => {
    if (event.key === "Delete" || event.key === "Backspace") set(done(trace.nodes, "drop", node.place, size));
    else if (event.key === "Enter") set(done(trace.nodes, node.smooth ? "sharp" : "smooth", node.place, size));
    else return keys.onKeyDown(event);
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <g
      data-node={number}
      className="grip"
      role="button"
      aria-label={`Node ${number}, ${node.smooth ? "smooth" : "sharp"}`}
      style={{ cursor: "move" }}
      {...drag}
      tabIndex={0}
      onKeyDown={key}
      onDoubleClick={(event) => {
        event.stopPropagation();
        set(done(trace.nodes, node.smooth ? "sharp" : "smooth", node.place, size));
      }}
    >
      <circle cx={spot[0]} cy={spot[1]} r="8" fill="transparent" />
      <circle
        className="grip-dot"
        cx={spot[0]}
        cy={spot[1]}
        r="3.5"
        fill={node.smooth ? COLOURS.white : COLOURS.madder}
        stroke={COLOURS.madder}
        strokeWidth="1.6"
      />
    </g>
  );
}
