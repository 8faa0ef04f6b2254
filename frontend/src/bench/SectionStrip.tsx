import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type Recipe, type Schemas, takeAs } from "../api/client";
import { mm } from "../shared/format";
import { useBench } from "./benchStore";
import { pictureKey } from "./picture/useCorrected";

const LEFT = 46;
const RIGHT = 18;
const TOP = 30;
const BOTTOM = 20;
/** Combs closer together than this, px, would only be gray. */
const CLOSEST = 3;

type Section = Schemas["SectionOut"];

/** The profile along the section line in mm, over a comb of nozzle lines and print layers. */
export function SectionStrip({ recipe, resting }: { recipe: Recipe; resting: boolean }) {
  const { line, along, setAlong } = useBench();
  const frame = useRef<HTMLElement>(null);
  const [room, setRoom] = useState({ width: 0, height: 0 });
  const [stretched, setStretched] = useState(true);
  const [last, setLast] = useState<{ key: string; section: Section }>();
  const [faint, setFaint] = useState<Section>();

  useEffect(() => {
    if (!frame.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry.contentRect;
      setRoom({ width, height });
    });
    observer.observe(frame.current);
    return () => observer.disconnect();
  }, []);

  // Full resolution is asked for what is kept, not for every move of a control, and one
  // answer is waited for before the next is asked.
  const [asked, setAsked] = useState({ recipe, line });
  const recipeKey = pictureKey(asked.recipe);
  const lineKey = JSON.stringify(asked.line);
  const query = useQuery({
    queryKey: ["section", recipeKey, lineKey],
    queryFn: () =>
      takeAs<Section>(api.POST("/api/section", { body: { recipe: asked.recipe, ...asked.line, parts: 800 } })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
    retry: false,
  });
  const section = query.data;
  const { isFetching } = query;
  useEffect(() => {
    const next = resting ? recipe : asked.recipe;
    if (!isFetching && (next !== asked.recipe || line !== asked.line)) setAsked({ recipe: next, line });
  }, [recipe, resting, line, asked, isFetching]);

  // The profile before the last change of the piece stays as a faint line.
  useEffect(() => {
    if (!section || query.isPlaceholderData) return;
    const key = `${recipeKey}|${lineKey}`;
    if (last && last.key !== key) {
      const sameLine = last.key.endsWith(`|${lineKey}`);
      setFaint(sameLine ? last.section : undefined);
    }
    if (last?.key !== key) setLast({ key, section });
  }, [section, query.isPlaceholderData, recipeKey, lineKey, last]);

  const width = Math.max(1, room.width - LEFT - RIGHT);
  const height = Math.max(1, room.height - TOP - BOTTOM);
  const length = section?.length_mm ?? 1;
  const highest = Math.max(section?.highest_mm ?? 1, 0.1);
  const across = width / length;
  const up = stretched ? height / (highest * 1.08) : Math.min(across, height / (highest * 1.08));
  const base = TOP + height;
  const outline = (of: Section) => {
    const each = width / of.high_mm.length;
    const x = (i: number) => (LEFT + (i + 0.5) * each).toFixed(1);
    const high = of.high_mm.map((h, i) => `${x(i)} ${(base - h * up).toFixed(1)}`);
    return high.join("L");
  };
  const combs = (step: number, scale: number, to: number) =>
    step * scale < CLOSEST ? [] : Array.from({ length: Math.floor(to / step) + 1 }, (_, i) => i * step);
  const index = section && along !== undefined ? Math.min(section.high_mm.length - 1, Math.floor(along * section.high_mm.length)) : undefined;
  const here = section && index !== undefined ? section.high_mm[index] : undefined;
  const slope = index === undefined ? undefined : section?.slope_deg[index];

  return (
    <section className="section-strip" ref={frame} aria-label="Section strip">
      <div className="view-bar">
        <span className="view-name">
          Section, {mm(length, 1)} mm
          {here !== undefined && (
            <span className="mono" role="status">
              {" · "}at {mm((along ?? 0) * length, 1)} mm: {here > 0 ? `${mm(here, 3)} mm high` : "cut through"}
              {slope !== undefined && here > 0 && `, slope ${mm(slope, 0)}°`}
            </span>
          )}
        </span>
        <button type="button" className="chip" aria-pressed={stretched} onClick={() => setStretched(!stretched)}>
          {stretched ? "height stretched" : "to scale"}
        </button>
      </div>
      {query.isError && <p className="section-none">No section: the heights cannot be made as they are.</p>}
      {section && room.width > 0 && (
        <svg
          width={room.width}
          height={room.height}
          role="img"
          aria-label={`Profile from ${mm(Math.min(...section.low_mm))} to ${mm(Math.max(...section.high_mm))} mm`}
          onPointerMove={(event) => {
            const box = event.currentTarget.getBoundingClientRect();
            const share = (event.clientX - box.left - LEFT) / width;
            setAlong(share >= 0 && share <= 1 ? share : undefined);
          }}
          onPointerLeave={() => setAlong(undefined)}
        >
          <g stroke="#E6DED0" strokeWidth="1">
            {combs(section.layer_mm, up, highest * 1.05).map((h) => (
              <line key={h} x1={LEFT} x2={LEFT + width} y1={base - h * up} y2={base - h * up} />
            ))}
            {combs(section.line_mm, across, length).map((x) => (
              <line key={x} x1={LEFT + x * across} x2={LEFT + x * across} y1={TOP} y2={base} />
            ))}
          </g>
          <path d={`M${LEFT} ${base}L${outline(section)}L${LEFT + width} ${base}Z`} fill="#D8CCBB" fillOpacity="0.75" />
          {faint && <path d={`M${outline(faint)}`} fill="none" stroke="#6B6470" strokeOpacity="0.45" strokeDasharray="4 3" />}
          <path d={`M${outline(section)}`} fill="none" stroke="#9A2B45" strokeWidth="1.6" />
          <line x1={LEFT} x2={LEFT + width} y1={base} y2={base} stroke="#2A2530" />
          <g className="mono" fill="#6B6470" fontSize="11">
            <text x={LEFT - 6} y={base + 3} textAnchor="end">
              0
            </text>
            <text x={LEFT - 6} y={base - highest * up + 4} textAnchor="end">
              {mm(highest)}
            </text>
            <text x={LEFT} y={base + 15}>
              0
            </text>
            <text x={LEFT + width} y={base + 15} textAnchor="end">
              {mm(length, 1)} mm
            </text>
          </g>
          {along !== undefined && here !== undefined && (
            <g pointerEvents="none">
              <line x1={LEFT + along * width} x2={LEFT + along * width} y1={TOP} y2={base} stroke="#9A2B45" strokeDasharray="2 3" />
              <circle cx={LEFT + along * width} cy={base - here * up} r="4.5" fill="#9A2B45" stroke="#fff" strokeWidth="2" />
            </g>
          )}
        </svg>
      )}
    </section>
  );
}
