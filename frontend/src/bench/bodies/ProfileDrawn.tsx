import { type PointerEvent, useRef, useState } from "react";
import { Button } from "../../shared/Button";
import { COLOURS } from "../../shared/colours";
import { mm } from "../../shared/format";
import { NumberField } from "../../shared/NumberField";

type Place = [number, number];

interface Props {
  /** Radius and height of each place, mm, from the foot up. */
  places: Place[];
  smooth: boolean;
  onChange: (places: Place[], resting: boolean) => void;
}

const WIDE = 300;
const TALL = 300;
const EDGE = 18;
const LEAST = 0.2;
const MOST = 60;

const tidy = (value: number) => Number(value.toFixed(2));

/** The profile of a turned shape: half of it, its places dragged. */
export function ProfileDrawn({ places, smooth, onChange }: Props) {
  const frame = useRef<SVGSVGElement>(null);
  const [chosen, setChosen] = useState(0);
  const held = useRef<Place[]>(undefined);
  const [scale, setScale] = useState<number>();
  const high = Math.max(...places.map(([, z]) => z));
  const wide = Math.max(...places.map(([r]) => r));
  // While one is dragged the picture keeps its scale.
  const perMm = scale ?? Math.min((TALL - 2 * EDGE) / Math.max(high, 1), (WIDE - 2 * EDGE) / Math.max(wide, 1));
  const at = ([r, z]: Place): Place => [EDGE + r * perMm, TALL - EDGE - z * perMm];
  const index = Math.min(chosen, places.length - 1);
  const line = places
    .map((place) =>
      at(place)
        .map((px) => px.toFixed(1))
        .join(" "),
    )
    .join(" L");

  function moved(which: number, [r, z]: Place): Place[] {
    const below = which ? places[which - 1][1] + LEAST : -Infinity;
    const above = which < places.length - 1 ? places[which + 1][1] - LEAST : Infinity;
    const next: Place = [tidy(Math.max(0, r)), tidy(Math.min(above, Math.max(below, which ? z : 0)))];
    return places.map((old, i) => (i === which ? next : old));
  }

  function drag(event: PointerEvent) {
    const box = frame.current?.getBoundingClientRect();
    if (!held.current || !box) return;
    const [x, y] = [((event.clientX - box.left) / box.width) * WIDE, ((event.clientY - box.top) / box.height) * TALL];
    held.current = moved(index, [(x - EDGE) / perMm, (TALL - EDGE - y) / perMm]);
    onChange(held.current, false);
  }

  function letGo() {
    if (held.current) onChange(held.current, true);
    held.current = undefined;
    setScale(undefined);
  }

  function add() {
    const next = places[index + 1] ?? [places[index][0], places[index][1] + 20];
    const between: Place = [tidy((places[index][0] + next[0]) / 2), tidy((places[index][1] + next[1]) / 2)];
    onChange([...places.slice(0, index + 1), index === places.length - 1 ? (next as Place) : between, ...places.slice(index + 1)], true);
    setChosen(index + 1);
  }

  return (
    <section className="field" aria-label="Profile">
      <div className="field-label mb-1">Profile, from its axis</div>
      <svg ref={frame} className="profile-drawn" viewBox={`0 0 ${WIDE} ${TALL}`} onPointerMove={drag} onPointerUp={letGo} onPointerCancel={letGo}>
        <path d={`M${EDGE} ${TALL - EDGE} L${line} L${EDGE} ${at(places[places.length - 1])[1]} Z`} fill={COLOURS.slope} />
        <path d={`M${line}`} fill="none" stroke={COLOURS.ink} strokeWidth="1.6" strokeDasharray={smooth ? "2 3" : undefined} />
        <path d={`M${EDGE} 4V${TALL - 4}`} stroke={COLOURS.line} strokeDasharray="5 4" />
        {places.map((place, i) => {
          const [x, y] = at(place);
          return (
            <circle
              key={i}
              className="profile-place"
              cx={x}
              cy={y}
              r={i === index ? 6 : 4.5}
              fill={i === index ? COLOURS.madder : COLOURS.white}
              stroke={COLOURS.ink}
              onPointerDown={(event) => {
                event.currentTarget.setPointerCapture(event.pointerId);
                setScale(perMm);
                held.current = places;
                setChosen(i);
              }}
            />
          );
        })}
      </svg>
      <div className="field-help mono">
        place {index + 1} of {places.length}, {mm(2 * wide, 1)} mm wide, {mm(high, 1)} mm tall
      </div>
      <NumberField
        label="Radius there"
        unit="mm"
        value={places[index][0]}
        range={[0, 1000]}
        step={0.5}
        slider={false}
        onChange={(r, resting) => onChange(moved(index, [r, places[index][1]]), resting)}
      />
      {index > 0 && (
        <NumberField
          label="Height there"
          unit="mm"
          value={places[index][1]}
          range={[0, 2000]}
          step={0.5}
          slider={false}
          onChange={(z, resting) => onChange(moved(index, [places[index][0], z]), resting)}
        />
      )}
      <div className="d-flex gap-2">
        <Button size="sm" variant="plain" disabled={index === places.length - 1} onClick={() => setChosen(index + 1)}>
          Next
        </Button>
        <Button size="sm" variant="plain" disabled={places.length >= MOST} onClick={add}>
          Add a place
        </Button>
        <Button
          size="sm"
          variant="plain"
          disabled={places.length <= 2 || index === 0}
          onClick={() => {
            onChange(
              places.filter((_, i) => i !== index),
              true,
            );
            setChosen(index - 1);
          }}
        >
          Take it away
        </Button>
      </div>
    </section>
  );
}
