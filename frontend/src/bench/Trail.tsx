import type { CSSProperties } from "react";
import { COLOURS } from "../shared/colours";
import { type Inner, ofArt } from "./artOf";
import { usePieceStore } from "./pieceStore";
import { stopOf, stopsOf } from "./stops";
import type { Stop, TrailProps } from "./stops/stop";

const WIDE = 1000;
const TOP = 81;
/** From the first stop to the last, however many there are. */
const FALL = 16.8;
const SLOPE = 10;

/** The stops of the piece with their figures; the line beneath is itself a small section. */
export function Trail({ inner, ...props }: Omit<TrailProps, "open"> & { late: boolean; inner: Inner | undefined }) {
  const stops = stopsOf(props.recipe).filter((stop) => !stop.ofArt || inner);
  const chosen = stopOf(
    props.recipe,
    usePieceStore((state) => state.stop),
  );
  const at = stops.indexOf(chosen);
  const wide = WIDE / stops.length;
  const height = (index: number) => TOP - (index * FALL) / Math.max(1, stops.length - 1);
  const steps = stops
    .map((_, index) => {
      const x = index * wide;
      return `${index ? `L${x + SLOPE} ${height(index)}` : `M0 ${height(0)}`} L${x + wide} ${height(index)}`;
    })
    .join(" ");
  const mark = `M${at * wide} ${height(Math.max(0, at - 1))} L${at * wide + (at ? SLOPE : 0)} ${height(at)} L${(at + 1) * wide} ${height(at)}`;
  return (
    <nav className="trail" aria-label="Trail" style={{ "--stops": stops.length } as CSSProperties}>
      <svg viewBox={`0 0 ${WIDE} 84`} preserveAspectRatio="none" aria-hidden="true">
        <path d={`${steps} L${WIDE} 84 L0 84 Z`} fill={COLOURS.slope} />
        <path d={steps} fill="none" stroke={COLOURS.edge} strokeWidth="1.5" vectorEffect="non-scaling-stroke" />
        <path d={mark} fill="none" stroke={COLOURS.madder} strokeWidth="3" vectorEffect="non-scaling-stroke" strokeLinejoin="round" />
      </svg>
      {stops.map((stop) => (
        // Stops of one name may ask in other ways where the piece begins as something else.
        <TrailStop key={`${props.recipe.begins.kind} ${stop.id}`} {...props} {...ofArt(stop, inner)} stop={stop} open={stop === chosen} />
      ))}
    </nav>
  );
}

function TrailStop({ stop, late, ...props }: TrailProps & { stop: Stop; late: boolean }) {
  const go = usePieceStore((state) => state.go);
  const now = stop.useTold(props);
  const without = stop.useTold({ ...props, figures: undefined });
  // Figures of the recipe before are not told as those of this one.
  const old = late && now.tone !== "wrong" && (now.figure !== without.figure || now.state !== without.state);
  const { figure, state, tone } = old ? ({ figure: now.figure, state: props.mesh.problem ? "as before" : "follows", tone: "quiet" } as const) : now;
  return (
    <button type="button" className={old ? "trail-stop as-before" : "trail-stop"} aria-current={props.open ? "step" : undefined} onClick={() => go(stop.id)}>
      <span className="stop-name">{stop.name}</span>
      <span className="mono">{figure}</span>
      <span className={`stop-state state-${tone}`}>{state}</span>
    </button>
  );
}
