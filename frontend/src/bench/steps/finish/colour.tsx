import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { Form } from "react-bootstrap";
import { api, take } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { SelectField } from "../../../shared/SelectField";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { useBench } from "../../benchStore";
import { usePieceStore } from "../../pieceStore";
import { Changed } from "./Changed";
import { type Editing, type Finishing, onPicture } from "./finishing";
import { PointButton } from "../../PointButton";

const WAYS = [
  ["height", "by height"],
  ["part", "by part"],
  ["one", "in one colour"],
  ["picture", "as the picture"],
  ["fewer", "fewer of those there are"],
  ["merge", "merged, or dropped"],
  ["match", "like a palette"],
  ["none", "without colours"],
] as const;
const HELP = {
  height: "Another colour from each height on, above the underside: where the printer changes its material.",
  part: "Each body has its own, the largest the first.",
  one: "All of it.",
  picture: "Each place has the colour that it has on the picture, all the way down. Triangles are cut smaller where it changes.",
  merge: "Point at a colour of the piece: it becomes another, or goes.",
  fewer: "Those that are left are like the rest to the eye.",
  match: "Each becomes the one of the palette that is most like it to the eye.",
  none: "What colours it has are dropped.",
};

function ColourEditor(props: Editing<"colour">) {
  const { step, set, figures, piece, recipe } = props;
  const { look, setLook } = useBench();
  const { colours, changes, by } = step;
  const many = by === "height" || by === "part" || by === "match";
  const put = (index: number, colour: string) => set({ colours: colours.map((old, i) => (i === index ? colour : old)) });
  const more = () => {
    const above = changes.at(-1)?.mm ?? 0;
    set({ colours: [...colours, colours[0]], ...(by === "height" ? { changes: [...changes, { mm: above + 1, text: null }] } : {}) });
  };
  const less = (index: number) =>
    set({
      colours: colours.filter((_, i) => i !== index),
      ...(by === "height" ? { changes: changes.filter((_, i) => i !== Math.max(0, index - 1)) } : {}),
    });
  /** By height there is one change fewer than there are colours. */
  const choose = (way: typeof by) => {
    const missing = Array.from({ length: Math.max(0, colours.length - 1 - changes.length) }, (_, i) => ({ mm: (changes.at(-1)?.mm ?? 0) + i + 1, text: null }));
    set({ by: way, ...(way === "height" ? { changes: [...changes, ...missing].slice(0, colours.length - 1) } : {}) });
  };
  return (
    <>
      <SelectField
        label="Coloured"
        value={by}
        options={WAYS.filter(([way]) => way !== "picture" || by === way || onPicture(piece, recipe))}
        onChange={choose}
      />
      <p className="field-help">{HELP[by]}</p>
      {by === "fewer" && (
        <NumberField label="Colours" value={step.count} range={[1, 32]} step={1} onChange={(count, r) => set({ count: Math.round(count) }, r)} />
      )}
      {by === "picture" && (
        <LengthField
          label="As fine as"
          help="How closely borders between colours are followed."
          value={step.fine}
          range={[0.05, 2]}
          limits={[0.02, 20]}
          step={0.05}
          slider
          onChange={(fine, r) => set({ fine }, r)}
        />
      )}
      {by === "merge" && <Merges {...props} />}
      {by === "match" && <Materials set={set} />}
      {(many || by === "one") &&
        (by === "one" ? colours.slice(0, 1) : colours).map((colour, index) => (
          <div key={index} className="colour-row">
            <ColourField label={by === "one" ? "Colour" : `Colour ${index + 1}`} value={colour} onChange={(next) => put(index, next)} />
            {many && colours.length > 1 && (
              <button type="button" className="btn btn-sm btn-link" aria-label={`Take away colour ${index + 1}`} onClick={() => less(index)}>
                take away
              </button>
            )}
            {by === "height" && index < changes.length && (
              <LengthField
                label={`Up to, ${index + 1}`}
                value={changes[index]}
                range={[0.1, Math.max(1, figures?.mesh.size_mm[2] ?? 100)]}
                limits={[0, 100_000]}
                step={0.1}
                onChange={(at, r) => set({ changes: changes.map((old, i) => (i === index ? at : old)) }, r)}
              />
            )}
          </div>
        ))}
      {many && colours.length < 32 && (
        <Button size="sm" variant="plain" className="mb-2" onClick={more}>
          Another colour
        </Button>
      )}
      <div className="field">
        <button type="button" className="chip" aria-pressed={look === "coloured"} onClick={() => setLook(look === "coloured" ? "surface" : "coloured")}>
          show colours
        </button>
      </div>
      <Changed {...props} />
    </>
  );
}

type Merge = Editing<"colour">["step"]["merges"][number];

/** Colours that become others, pointed at in the piece. */
function Merges({ step, set }: Editing<"colour">) {
  const { picking, pick } = usePieceStore();
  const [first, setFirst] = useState<string>();
  const { setLook } = useBench();
  const dropping = picking === `${step.id} drop`;
  const merging = picking === `${step.id} merge`;
  const stop = () => {
    setFirst(undefined);
    pick(undefined);
  };
  const add = (one: Merge) => {
    stop();
    set({ merges: [...step.merges, one] });
  };
  const drop = () => {
    setLook("coloured");
    pick(`${step.id} drop`, ({ colour }) => colour && add({ colour, into: null }));
  };
  const merge = () => {
    setLook("coloured");
    pick(`${step.id} merge`, ({ colour }) => {
      if (!colour) return;
      setFirst(colour);
      pick(`${step.id} merge`, ({ colour: into }) => into && add({ colour, into }));
    });
  };
  return (
    <>
      <div className="field d-flex gap-2 align-items-start flex-wrap">
        <PointButton
          name="Merge a colour"
          how={first ? "Now point at what it becomes." : "Point at a colour of the piece."}
          on={merging}
          onChange={(now) => (now ? merge() : stop())}
        />
        <PointButton name="Drop a colour" how="Point at a colour of the piece." on={dropping} onChange={(now) => (now ? drop() : stop())} />
      </div>
      <ul className="merges" aria-label="Merged colours">
        {step.merges.map(({ colour, into }, index) => (
          <li key={index}>
            <Swatch colour={colour} /> {into ? "becomes" : "goes"} {into && <Swatch colour={into} />}
            <button
              type="button"
              className="btn btn-sm btn-link"
              aria-label={`Take away merge ${index + 1}`}
              onClick={() => set({ merges: step.merges.filter((_, i) => i !== index) })}
            >
              take away
            </button>
          </li>
        ))}
      </ul>
      <NumberField
        label="Alike within"
        help="Colours no further from the one pointed at go with it; 1 is black from white."
        value={step.like}
        range={[0, 0.5]}
        step={0.01}
        onChange={(like, r) => set({ like }, r)}
      />
    </>
  );
}

function Swatch({ colour }: { colour: string }) {
  return <span className="swatch" style={{ background: colour }} role="img" aria-label={colour} />;
}

/** The colours of what is at hand, as a palette. */
function Materials({ set }: Pick<Editing<"colour">, "set">) {
  const { data } = useQuery({ queryKey: ["workshop"], queryFn: () => take(api.GET("/api/workshop")) });
  const colours = [...new Set(data?.materials.map(({ colour }) => colour))];
  return (
    <Button size="sm" variant="plain" className="mb-2" disabled={colours.length === 0} onClick={() => set({ colours })}>
      Those of the workshop’s materials
    </Button>
  );
}

function ColourField({ label, value, onChange }: { label: string; value: string; onChange: (colour: string) => void }) {
  const id = useId();
  return (
    <div className="field field-row">
      <label htmlFor={id}>{label}</label>
      <Form.Control id={id} type="color" value={value} onChange={(event) => onChange(event.target.value)} />
    </div>
  );
}

/** What it does, in few words. */
function told({ by, count, merges }: Editing<"colour">["step"]): string {
  if (by === "fewer") return `no more than ${count}`;
  if (by === "merge") return `${merges.length} merged`;
  if (by === "match") return "a palette";
  if (by === "none") return "none";
  return WAYS.find(([way]) => way === by)?.[1] ?? "";
}

export const colour: Finishing<"colour"> = {
  name: "Colour",
  purpose: "by height, by part, as the picture, merged, fewer, or like those at hand",
  also: "paint, filament",
  group: "Colours",
  figure: (step) => told(step),
  fresh: ({ figures }) => (figures ? { changes: [{ mm: Number((figures.mesh.size_mm[2] / 2).toFixed(2)), text: null }] } : {}),
  Editor: ColourEditor,
};
