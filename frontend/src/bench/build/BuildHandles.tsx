import { useRef } from "react";
import type { Entry, Figures, Recipe } from "../../api/client";
import { type Frame, type Spot, toScreen } from "../picture/frame";
import { Grip, useDrag, useKeyDrag } from "../picture/Handles";
import type { OpenPiece } from "../usePiece";
import { art, buildUp, change as changeAt } from "../at";
import { useBench } from "../benchStore";
import { entryName, entrySize, entryWord, isPlaced, type Placed, scaled } from "./entries";
import type { Outlines } from "./useOutlines";

interface Props {
  recipe: Recipe;
  figures: Figures | undefined;
  outlines: Outlines | undefined;
  frame: Frame;
}

const degrees = Math.PI / 180;
const round = (value: number) => Number(value.toFixed(2));

/** The chosen entry of the build-up, to be moved, sized and turned in the picture. */
export function EntryHandles({ recipe, outlines, frame, edit }: Omit<Props, "figures"> & { edit: OpenPiece["edit"] }) {
  const chosen = useBench((state) => state.entry);
  const open = buildUp.read(recipe).find((entry) => entry.id === chosen);
  if (!isPlaced(open) || !open.enabled || !outlines?.loops.has(open.id)) return null;
  return <Placing entry={open} outlines={outlines} frame={frame} edit={edit} />;
}

/** The outlines of the build-up in the picture, and the parts that are connected to nothing. */
export function BuildOutlines({ recipe, figures, outlines, frame }: Props) {
  const { entry: chosen, chooseEntry } = useBench();
  const entries = buildUp.read(recipe);
  const islands = art.read(recipe).islands === "keep" ? (figures?.heights.islands ?? []) : [];
  return (
    <g>
      {entries.map((entry) => {
        const path = outlines && loopPath(entry, outlines, frame);
        if (!path || !entry.enabled) return null;
        const cut = "rule" in entry && entry.rule === "cut";
        return (
          <path
            key={entry.id}
            className="entry-outline"
            data-entry={entryName(entry)}
            d={path}
            fillRule="evenodd"
            fill={entry.id === chosen ? "rgba(154, 43, 69, 0.14)" : "rgba(255, 255, 255, 0.01)"}
            stroke={entry.id === chosen ? "#9A2B45" : "#2A2530"}
            strokeDasharray={cut ? "4 3" : undefined}
            strokeWidth={entry.id === chosen ? 1.6 : 1}
            strokeOpacity={entry.id === chosen ? 1 : 0.7}
            onPointerDown={(event) => {
              if (event.button !== 0 || entry.id === chosen) return;
              event.stopPropagation();
              chooseEntry(entry.id);
            }}
          />
        );
      })}
      {islands.map(({ box_mm: [left, low, right, high] }, index) => {
        const [x0, y0] = toScreen(frame, [left / frame.wideMm, 1 - high / frame.tallMm]);
        const [x1, y1] = toScreen(frame, [right / frame.wideMm, 1 - low / frame.tallMm]);
        return (
          <rect
            key={index}
            className="island-mark"
            x={x0 - 4}
            y={y0 - 4}
            width={x1 - x0 + 8}
            height={y1 - y0 + 8}
            rx={4}
          />
        );
      })}
    </g>
  );
}

/** The middle of an entry on the screen. */
const middle = (entry: Placed, frame: Frame): Spot =>
  toScreen(frame, [0.5 + entry.x.mm / frame.wideMm, 0.5 - entry.y.mm / frame.tallMm]);

/** Loops as the core laid them, moved along while a newer answer is under way. */
function loopsOnScreen(entry: Entry, outlines: Outlines, frame: Frame): Spot[][] | undefined {
  const loops = outlines.loops.get(entry.id);
  if (!loops) return undefined;
  const onScreen = loops.map((loop) => loop.map((share) => toScreen(frame, share)));
  const before = outlines.entries.find((old) => old.id === entry.id);
  if (!isPlaced(entry) || !isPlaced(before) || before === entry || before.kind !== entry.kind) return onScreen;
  const [from, to] = [middle(before, frame), middle(entry, frame)];
  const times = entrySize(entry) / entrySize(before);
  const turn = -(entry.turn - before.turn) * degrees;
  const [cos, sin] = [Math.cos(turn) * times, Math.sin(turn) * times];
  return onScreen.map((loop) =>
    loop.map(([x, y]): Spot => {
      const [dx, dy] = [x - from[0], y - from[1]];
      return [to[0] + dx * cos - dy * sin, to[1] + dx * sin + dy * cos];
    }),
  );
}

const loopPath = (entry: Entry, outlines: Outlines, frame: Frame) =>
  loopsOnScreen(entry, outlines, frame)
    ?.map((loop) => `M${loop.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join("L")}Z`)
    .join("");

interface PlacingProps {
  entry: Placed;
  outlines: Outlines;
  frame: Frame;
  edit: OpenPiece["edit"];
}

/** A box around the chosen entry, turned with it, with grips for its size and its turn. */
function Placing({ entry, outlines, frame, edit }: PlacingProps) {
  const before = useRef(entry);
  const centre = middle(entry, frame);
  const turn = -entry.turn * degrees;
  const points = (loopsOnScreen(entry, outlines, frame) ?? []).flat();
  const local = points.map(([x, y]): Spot => {
    const [dx, dy] = [x - centre[0], y - centre[1]];
    return [dx * Math.cos(turn) + dy * Math.sin(turn), -dx * Math.sin(turn) + dy * Math.cos(turn)];
  });
  const low = [0, 1].map((i) => Math.min(...local.map((p) => p[i])) - 6);
  const high = [0, 1].map((i) => Math.max(...local.map((p) => p[i])) + 6);
  const out = ([x, y]: Spot): Spot => [
    centre[0] + x * Math.cos(turn) - y * Math.sin(turn),
    centre[1] + x * Math.sin(turn) + y * Math.cos(turn),
  ];
  const corners = ([[low[0], low[1]], [high[0], low[1]], [high[0], high[1]], [low[0], high[1]]] as Spot[]).map(out);
  const up = out([(low[0] + high[0]) / 2, low[1] - 22]);
  const top = out([(low[0] + high[0]) / 2, low[1]]);

  function change(next: (old: Placed) => Placed, resting: boolean) {
    edit(
      changeAt(buildUp, (now) => now.map((old) => (old.id === entry.id && isPlaced(old) ? next(old) : old))),
      `place ${entryWord(entry)}`,
      resting,
    );
  }

  const shift = (spot: Spot, start: Spot, resting: boolean) => {
    const perMm = frame.width / frame.wideMm;
    const x = before.current.x.mm + (spot[0] - start[0]) / perMm;
    const y = before.current.y.mm - (spot[1] - start[1]) / perMm;
    change((old) => ({ ...old, x: { mm: round(x) }, y: { mm: round(y) } }), resting);
  };
  const move = { ...useDrag(shift), ...useKeyDrag(frame, centre, shift) };
  const pull = (spot: Spot, start: Spot, resting: boolean) => {
    const was = Math.hypot(start[0] - centre[0], start[1] - centre[1]);
    const factor = Math.max(0.05, Math.hypot(spot[0] - centre[0], spot[1] - centre[1]) / Math.max(was, 1));
    const wanted = scaled(before.current, factor);
    change((old) => ({ ...wanted, x: old.x, y: old.y, turn: old.turn }), resting);
  };
  const spin = (spot: Spot, _: Spot, resting: boolean) => {
    const angle = -Math.atan2(spot[0] - centre[0], -(spot[1] - centre[1])) / degrees;
    const near = Math.round(angle / 15) * 15;
    const turned = Math.abs(near - angle) < 3 ? near : Math.round(angle * 10) / 10;
    change((old) => ({ ...old, turn: turned }), resting);
  };
  const remember = () => {
    before.current = entry;
  };
  return (
    <g onPointerDownCapture={remember} onKeyDownCapture={remember}>
      <polygon
        role="button"
        aria-label={`Place ${entryWord(entry)}`}
        className="grab"
        data-grip="Entry"
        points={corners.map((corner) => corner.join(",")).join(" ")}
        fill="transparent"
        stroke="#9A2B45"
        strokeDasharray="6 4"
        {...move}
      />
      <line x1={top[0]} y1={top[1]} x2={up[0]} y2={up[1]} stroke="#9A2B45" pointerEvents="none" />
      <Grip spot={corners[1]} label="Size" frame={frame} cursor="nesw-resize" onDrag={pull} />
      <Grip spot={up} label="Turn" frame={frame} cursor="grab" onDrag={spin} />
    </g>
  );
}
