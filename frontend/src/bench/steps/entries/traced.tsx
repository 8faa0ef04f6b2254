import { useMutation } from "@tanstack/react-query";
import { Form } from "react-bootstrap";
import { api, type Recipe, type Schemas, takeAs } from "../../../api/client";
import { COLOURS } from "../../../shared/colours";
import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { Figure, FigureList } from "../../../shared/Figure";
import { count, mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { showError } from "../../../shared/notices";
import { SelectField } from "../../../shared/SelectField";
import { Switch } from "../../../shared/Switch";
import { buildUp, change } from "../../at";
import { toScreen } from "../../picture/frame";
import { usePieceStore } from "../../pieceStore";
import { Tools } from "../corrections/tools";
import type { HandlesProps, Placing } from "../kinds";
import type { Editing, EntryStep, Made } from "./entry";
import { joinFigure, PlaceFields } from "./fields";
import { OutlinedFields } from "./OutlinedFields";
import { toMm } from "./places";
import { TracedNodes } from "./TracedNodes";
import { type Part, type Parts, useParts, within } from "./useParts";

type Trace = Schemas["Trace-Output"];
type Size = [number, number];

const OF = [
  ["dark", "what is dark"],
  ["light", "what is light"],
  ["band", "between two tones"],
  ["kept", "what the picture keeps"],
  ["colour", "what has a colour"],
] as const;
const hex = (colour: readonly number[]) =>
  `#${colour
    .map((v) =>
      Math.round(v * 255)
        .toString(16)
        .padStart(2, "0"),
    )
    .join("")}`;
const rgb = (hex: string) => [1, 3, 5].map((k) => Number((parseInt(hex.slice(k, k + 2), 16) / 255).toFixed(4))) as [number, number, number];
const LISTED = 12;
const WHY = {
  "": "kept",
  small: "left out: smaller than the limit",
  border: "left out: touches the border",
  dropped: "left out by hand",
  "not alone": "left out: another is kept alone",
};

const named = (parts: Parts, part: Part) => `Part ${parts.parts.indexOf(part) + 1}, ${mm(part.area_mm2)} mm², ${WHY[part.left_out]}`;

const toShare = (choice: Trace["choices"][number], [wide, tall]: Size): Size => [0.5 + choice.x.mm / wide, 0.5 - choice.y.mm / tall];

/** The choices after a part was chosen: what was chosen of it before is taken back. */
export function chosen(trace: Trace, part: Part, at: Size, keep: "drop" | "alone", size: Size): Trace["choices"] {
  const own = trace.choices.filter((one) => within(part, toShare(one, size)));
  const others = trace.choices.filter((one) => !own.includes(one));
  return own.some((one) => one.keep === keep) ? others : [...others, { ...toMm(at, size), keep }];
}

function TracedEditor({ step, set, recipe, edit }: Editing<"traced">) {
  const { trace } = step;
  const part = (values: Partial<Trace>, resting?: boolean) => set({ trace: { ...trace, ...values } }, resting);
  const { data: parts } = useParts(recipe, step);
  const tool = usePieceStore((state) => state.tool);
  const all = useMutation({
    // In place of this one.
    mutationFn: () =>
      takeAs<Recipe>(api.POST("/api/recipe/traced-tones", { body: { recipe: change(buildUp, (list) => list.filter(({ id }) => id !== step.id))(recipe) } })),
    onSuccess: (made) => edit(() => made, "trace every flat tone", true),
    onError: showError,
  });
  const choose = (one: Part, keep: "drop" | "alone") => parts && part({ choices: chosen(trace, one, one.place, keep, parts.picture_mm) });
  return (
    <PlaceFields entry={step} set={set as never} draggable={false}>
      <SelectField
        label="Trace"
        value={trace.of}
        options={OF}
        onChange={(of) => part(of === "band" ? { of, level: trace.level ?? 0.25, upto: 0.75 } : { of })}
      />
      {trace.of === "colour" && (
        <>
          <div className="field field-row">
            <label htmlFor="traced-colour">Colour</label>
            <Form.Control
              id="traced-colour"
              type="color"
              className="form-control-color"
              value={hex(trace.colour)}
              onChange={(event) => part({ colour: rgb(event.target.value) })}
            />
          </div>
          <Tools options={[["pick", "pick it in the picture"]]} />
          <NumberField
            label="How near"
            value={trace.near}
            range={[1, 80]}
            step={1}
            help="How different it may look: 2 can hardly be told apart."
            onChange={(near, r) => part({ near }, r)}
          />
        </>
      )}
      {(trace.of === "dark" || trace.of === "light") && (
        <Choice
          label="Level"
          value={trace.level === null ? "auto" : "own"}
          options={[
            ["auto", "found"],
            ["own", "set"],
          ]}
          onChange={(by) => part({ level: by === "auto" ? null : (parts?.level ?? 0.5) })}
        />
      )}
      {trace.of !== "kept" && trace.of !== "colour" && trace.level !== null && trace.level !== undefined && (
        <NumberField
          label={trace.of === "band" ? "From tone" : "Tone"}
          value={trace.level}
          range={[0, 1]}
          step={0.01}
          onChange={(level, r) => part({ level }, r)}
        />
      )}
      {trace.of === "band" && <NumberField label="To tone" value={trace.upto} range={[0, 1]} step={0.01} onChange={(upto, r) => part({ upto }, r)} />}
      <Switch
        label="By the middle of its strokes"
        value={trace.stroke !== null && trace.stroke !== undefined}
        onChange={(on) => part({ stroke: on ? { mm: 1.2, text: null } : null })}
      />
      {trace.stroke && (
        <LengthField
          label="Drawn"
          help="However wide they are in the picture."
          value={trace.stroke}
          range={[0.2, 10]}
          step={0.1}
          slider
          onChange={(stroke, r) => part({ stroke: { text: null, ...stroke } }, r)}
        />
      )}
      <Choice
        label="Closeness"
        value={trace.within ? "own" : "auto"}
        options={[
          ["auto", "by the pixels"],
          ["own", "set"],
        ]}
        onChange={(by) => part({ within: by === "auto" ? null : { mm: Math.max(0.01, Number((parts?.off_mm ?? 0.05).toFixed(3))), text: null } })}
      />
      {trace.within && (
        <LengthField
          label="Within"
          help="How far curves may be from the picture's line."
          value={trace.within}
          range={[0.005, 1]}
          step={0.005}
          slider
          onChange={(within, r) => part({ within: { text: null, ...within } }, r)}
        />
      )}
      <NumberField
        label="Corners from"
        unit="°"
        value={trace.corner}
        range={[5, 120]}
        step={1}
        help="Turns of less become round."
        onChange={(corner, r) => part({ corner }, r)}
      />
      <NumberField
        label="Leave out below"
        unit="mm²"
        value={trace.below_mm2}
        range={[0, 50]}
        step={0.1}
        help="Specks, and holes as small."
        onChange={(below_mm2, r) => part({ below_mm2 }, r)}
      />
      <LengthField label="Close gaps up to" value={trace.gap} range={[0, 5]} step={0.1} onChange={(gap, r) => part({ gap: { text: null, ...gap } }, r)} />
      <Switch label="Leave out what touches the border" value={trace.border} onChange={(border) => part({ border })} />
      <div className="field">
        <div className="field-label mb-1">By hand</div>
        <Tools options={[["nodes", "move nodes"]]} />
        <div className="field-help">
          {tool === "nodes"
            ? parts?.nodes.length === 0
              ? "There are too many to be shown; let curves be further off."
              : "Drag one; it keeps to the picture's line, with Shift it is free. Click the line for another. Delete takes one away, Enter makes it smooth or sharp."
            : "Nodes of the curves, where the picture does not say it."}
        </div>
        {trace.nodes.length > 0 && (
          <div className="field-row">
            <span className="field-help">{trace.nodes.length === 1 ? "One change" : `${trace.nodes.length} changes`} by hand</span>
            <Button size="sm" variant="plain" onClick={() => part({ nodes: [] })}>
              Take all back
            </Button>
          </div>
        )}
      </div>
      <Button size="sm" variant="plain" className="mb-2" disabled={all.isPending} onClick={() => all.mutate()}>
        Trace every flat tone
      </Button>
      {parts && (
        <>
          <FigureList>
            <Figure name="Shape">
              {mm(parts.size_mm[0])} × {mm(parts.size_mm[1])} mm
            </Figure>
            <Figure name="Parts">
              {count(parts.kept)} of {count(parts.found)}
            </Figure>
            <Figure name="Curves">{count(parts.curves)}</Figure>
            <Figure name="Furthest off">{mm(parts.off_mm, 3)} mm</Figure>
          </FigureList>
          <ul className="part-list" aria-label="Parts">
            {parts.parts.slice(0, LISTED).map((one, k) => (
              <li key={k} className={one.left_out ? "quiet" : undefined}>
                <span title={WHY[one.left_out]}>
                  {k + 1} · {mm(one.area_mm2)} mm²
                </span>
                <Button size="sm" variant="plain" aria-pressed={one.left_out === "dropped"} onClick={() => choose(one, "drop")}>
                  {one.left_out === "dropped" ? "take back" : "leave out"}
                </Button>
                <Button size="sm" variant="plain" onClick={() => choose(one, "alone")}>
                  alone
                </Button>
              </li>
            ))}
          </ul>
          {parts.found > LISTED && <p className="field-help">{count(parts.found - LISTED)} smaller ones: click them in the picture.</p>}
        </>
      )}
      <OutlinedFields step={step} set={set as never} />
    </PlaceFields>
  );
}

/** What is drawn over the picture: the parts, or their nodes; nothing while a colour is picked. */
function TracedHandles(props: HandlesProps<Made<"traced">>) {
  const tool = usePieceStore((state) => state.tool);
  if (tool === "pick") return null;
  return tool === "nodes" ? <TracedNodes {...props} /> : <TracedParts {...props} />;
}

/** The parts over the picture: a click leaves one out, or takes it back; with Shift it is kept alone. */
function TracedParts({ step, word, recipe, frame, change }: HandlesProps<Made<"traced">>) {
  const { data: parts } = useParts(recipe, step);
  if (!parts || !step.enabled) return null;
  const path = (part: Part) =>
    part.loops
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
  const size: Size = [frame.wideMm, frame.tallMm];
  return (
    <g>
      {parts.parts.map((part, k) => (
        <path
          key={k}
          className="traced-part"
          data-left-out={part.left_out || undefined}
          d={path(part)}
          fillRule="evenodd"
          fill={part.left_out ? COLOURS.ink : COLOURS.madder}
          fillOpacity={part.left_out ? 0.06 : 0.2}
          stroke={part.left_out ? COLOURS.ink : COLOURS.madder}
          strokeDasharray={part.left_out ? "3 3" : undefined}
          onClick={(event) => {
            const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
            if (!box) return;
            const at: Size = [(event.clientX - box.left - frame.left) / frame.width, (event.clientY - box.top - frame.top) / frame.height];
            const keep = event.shiftKey ? "alone" : "drop";
            change({ trace: { ...step.trace, choices: chosen(step.trace, part, at, keep, size) } }, true, `part of ${word}`);
          }}
        >
          <title>{`${named(parts, part)}. Click to ${part.left_out === "dropped" ? "take it back" : "leave it out"}, with Shift to keep it alone.`}</title>
        </path>
      ))}
    </g>
  );
}

const placing: Placing<Made<"traced">> = { size: () => 1, scaled: () => ({}) };

export const traced: EntryStep<"traced"> = {
  name: "Traced shape",
  purpose: "the outline of what is dark, light or kept in the picture",
  also: "vectorise, vectorize, outline, offset, silhouette, extrude",
  figure: joinFigure,
  fresh: () => ({ rule: "highest", height: { mm: 2, text: null } }),
  placing,
  Editor: TracedEditor,
  Handles: TracedHandles,
  tools: {
    pick: {
      by: "click",
      offered: ({ trace }) => trace.of === "colour",
      done: ({ trace }, { colour, tone }) => {
        const found = colour() ?? [tone(), tone(), tone()];
        return { part: { trace: { ...trace, colour: found } }, then: "none" };
      },
    },
  },
};
