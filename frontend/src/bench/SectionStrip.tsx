import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, newest, type Recipe, takeAs } from "../api/client";
import { mm } from "../shared/format";
import { useOldQuery } from "../shared/old";
import { useLast } from "../shared/useLast";
import { useRoom } from "../shared/useRoom";
import { useShortcuts } from "../shared/useShortcuts";
import { corrections, form, tones } from "./at";
import { type SectionLine, useBench } from "./benchStore";
import { lookOf } from "./looks";
import { pictureKey } from "./picture/useCorrected";
import { useInput } from "./picture/useInput";
import { usePieceStore } from "./pieceStore";
import { SectionNumbers } from "./SectionNumbers";
import { type Section, SectionProfile, type Stretch } from "./SectionProfile";
import { stopOf } from "./stops";

const WHOLE: Stretch = { from: 0, to: 1 };
const PARTS = 800;
/** Closer than this, shares of the line, nothing more is to be seen. */
const SHORTEST = 0.002;

/** What of a recipe the section depends on. */
const sectionKey = (recipe: Recipe) => JSON.stringify([pictureKey(recipe), form.read(recipe), recipe.made_with, recipe.proof]);

/** Part of the section line. */
function partOf({ start, end }: SectionLine, { from, to }: Stretch): SectionLine {
  const at = (share: number): [number, number] => [start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share];
  return { start: at(from), end: at(to) };
}

/** The profile along the section line in mm, over a comb of nozzle lines and print layers. */
export function SectionStrip({ recipe, resting }: { recipe: Recipe; resting: boolean }) {
  const { line, look } = useBench();
  const { stop, along, setAlong, setPath } = usePieceStore();
  const lit = lookOf(look).light || stopOf(recipe, stop).light || tones.read(recipe).mapping === "light";
  const frame = useRef<HTMLElement>(null);
  const room = useRoom(frame);
  const [stretched, setStretched] = useState(true);
  const [seen, setSeen] = useState(WHOLE);
  const [marks, setMarks] = useState<number[]>([]);
  const [last, setLast] = useState<{ key: string; section: Section }>();
  const [numbers, setNumbers] = useState(false);
  const input = useInput(recipe, corrections.read(recipe).length);
  const [faint, setFaint] = useState<Section>();

  // Full resolution is asked for what is kept, not for every move of a control. While the line
  // moves one answer is waited for before the next is asked; of another recipe none is of use.
  const [asked, setAsked] = useState({ recipe, line, seen });
  const recipeKey = sectionKey(asked.recipe);
  const lineKey = JSON.stringify([asked.line, asked.seen]);
  const query = useQuery({
    queryKey: ["section", recipeKey, lineKey],
    queryFn: async ({ signal }) => {
      const body = { recipe: asked.recipe, ...partOf(asked.line, asked.seen), parts: PARTS };
      const section = await takeAs<Section>(api.POST("/api/section", { body, ...newest("section", signal) }));
      return { section, seen: asked.seen };
    },
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
    retry: false,
  });
  useOldQuery("the section", query);
  const found = useLast(query.data);
  const section = found?.section;
  const shown = found?.seen ?? WHOLE;
  const { isFetching, isPlaceholderData } = query;
  useEffect(() => {
    const next = resting ? recipe : asked.recipe;
    if (next !== asked.recipe || (!isFetching && (line !== asked.line || seen !== asked.seen))) setAsked({ recipe: next, line, seen });
  }, [recipe, resting, line, seen, asked, isFetching]);
  useEffect(() => {
    if (section && !isPlaceholderData) setPath({ points: section.path_mm as [number, number, number][], ...shown });
  }, [section, shown, isPlaceholderData, setPath]);
  // Marks belong to a line.
  useEffect(() => setMarks([]), [line]);

  // The profile before the last change of the piece stays as a faint line.
  useEffect(() => {
    if (!section || isPlaceholderData) return;
    const key = `${recipeKey}|${lineKey}`;
    if (last && last.key !== key) {
      const sameLine = last.key.endsWith(`|${lineKey}`);
      setFaint(sameLine ? last.section : undefined);
    }
    if (last?.key !== key) setLast({ key, section });
  }, [section, isPlaceholderData, recipeKey, lineKey, last]);

  const zoomAt = (share: number, factor: number) => {
    const wide = Math.min(1, Math.max(SHORTEST, (seen.to - seen.from) * factor));
    const from = Math.min(1 - wide, Math.max(0, share - ((share - seen.from) / (seen.to - seen.from)) * wide));
    setSeen(wide === 1 ? WHOLE : { from, to: from + wide });
  };
  const shift = (by: number) => {
    const wide = seen.to - seen.from;
    const from = Math.min(1 - wide, Math.max(0, seen.from + by * wide));
    setSeen({ from, to: from + wide });
  };
  const middle = along ?? (seen.from + seen.to) / 2;
  useShortcuts({
    "]": () => zoomAt(middle, 0.5),
    "[": () => zoomAt(middle, 2),
    m: () => along !== undefined && mark(along),
  });

  function mark(share: number) {
    setMarks((now) => (now.length >= 2 ? [share] : [...now, share]));
  }

  /** Height and slope at a share of the whole line, when it is in sight. */
  const read = (share: number | undefined) => {
    if (!section || share === undefined) return undefined;
    const own = (share - shown.from) / (shown.to - shown.from);
    if (own < 0 || own > 1) return undefined;
    const index = Math.min(section.high_mm.length - 1, Math.floor(own * section.high_mm.length));
    return { height: section.high_mm[index], slope: section.slope_deg[index], light: section.light[index] };
  };
  const whole = (section?.length_mm ?? 1) / (shown.to - shown.from);
  const here = read(along);
  const [one, other] = marks.map(read);
  const zoomed = seen.from !== 0 || seen.to !== 1;

  return (
    <section className="section-strip" ref={frame} aria-label="Section strip">
      <div className="view-bar">
        <span className="view-name">
          Section, {mm(whole, 1)} mm
          {lit && <span className="light-words"> · light in ochre, 100 % at the top</span>}
          {here !== undefined && along !== undefined && (
            <span className="mono" role="status">
              {" · "}at {mm(along * whole, 2)} mm: {here.height > 0 ? `${mm(here.height, 3)} mm high` : "cut through"}
              {here.height > 0 && `, slope ${mm(here.slope, 0)}°`}
              {lit && `, light ${mm(here.light * 100, 0)} %`}
            </span>
          )}
          {marks.length > 0 && (
            <span className="mono mark-words">
              {" · "}
              {one && other
                ? `between the marks ${mm(Math.abs(marks[1] - marks[0]) * whole, 2)} mm along, ${mm(Math.abs(other.height - one.height), 3)} mm in height`
                : "a second mark gives the difference"}
            </span>
          )}
        </span>
        {section && (
          <span className="chip mono" title="Nozzle lines and print layers of the piece's printer">
            {mm(section.line_mm)} mm lines · {mm(section.layer_mm)} mm layers
          </span>
        )}
        <button type="button" className="chip" aria-pressed={numbers} onClick={() => setNumbers(!numbers)}>
          in numbers
        </button>
        {zoomed && (
          <button type="button" className="chip" onClick={() => setSeen(WHOLE)}>
            all of it
          </button>
        )}
        <button type="button" className="chip" aria-label="More of the section" onClick={() => zoomAt(middle, 2)}>
          −
        </button>
        <button type="button" className="chip" aria-label="Closer along the section" onClick={() => zoomAt(middle, 0.5)}>
          +
        </button>
        <button type="button" className="chip" aria-pressed={stretched} onClick={() => setStretched(!stretched)}>
          {stretched ? "height stretched" : "to scale"}
        </button>
      </div>
      {numbers && input && <SectionNumbers size={[input.wide_mm, input.tall_mm]} />}
      {section && room.width > 0 && (
        <SectionProfile
          section={section}
          faint={faint}
          shown={shown}
          seen={seen}
          whole={whole}
          room={room}
          stretched={stretched}
          lit={Boolean(lit)}
          along={along}
          marks={marks}
          onAlong={setAlong}
          onMark={mark}
          onZoom={zoomAt}
          onShift={shift}
        />
      )}
    </section>
  );
}
