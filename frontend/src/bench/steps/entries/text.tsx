import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { SelectField } from "../../../shared/SelectField";
import { TextField } from "../../../shared/TextField";
import { by, type Editing, type EntryStep, type Made } from "./entry";
import { grips } from "./grips";
import { joinFigure, PlaceFields } from "./fields";
import { OutlinedFields } from "./OutlinedFields";
import type { Placing } from "../kinds";

export const FACES = [
  ["plain", "plain, semibold"],
  ["plain_heavy", "plain, heavy"],
  ["slab", "slab, bold"],
  ["stencil", "stencil, for cutting"],
] as const;

function TextEditor({ step, set }: Editing<"text">) {
  return (
    <PlaceFields entry={step} set={set as never}>
      <TextField label="Text" rows={2} maxLength={500} value={step.text} onChange={(text, r) => set({ text }, r)} />
      <SelectField label="Typeface" value={step.face} options={FACES} onChange={(face) => set({ face })} />
      <LengthField label="Capital height" value={step.capital} range={[1, 60]} step={0.5} slider onChange={(capital, r) => set({ capital }, r)} />
      <Choice
        label="Lines"
        value={step.align}
        options={[
          ["left", "left"],
          ["centre", "centre"],
          ["right", "right"],
        ]}
        onChange={(align) => set({ align })}
      />
      <LengthField label="Letter spacing" value={step.spacing} range={[-2, 10]} step={0.1} onChange={(spacing, r) => set({ spacing }, r)} />
      <LengthField
        label="Along an arc"
        value={step.arc}
        range={[-300, 300]}
        step={1}
        help="Radius; 0 is straight, below 0 it hangs."
        onChange={(arc, r) => set({ arc }, r)}
      />
      <OutlinedFields step={step} set={set as never} />
    </PlaceFields>
  );
}

const placing: Placing<Made<"text">> = {
  size: ({ capital }) => capital.mm,
  scaled: ({ capital, spacing, arc }, factor) => ({
    capital: by(capital, factor),
    spacing: by(spacing, factor),
    arc: by(arc, factor),
  }),
};

export const text: EntryStep<"text"> = {
  name: "Text",
  purpose: "lettering in weights that print",
  also: "lettering, words, engrave, emboss",
  title: ({ text }) => `“${text.split("\n")[0].slice(0, 22)}”`,
  word: "text",
  figure: joinFigure,
  fresh: () => ({ rule: "add", height: { mm: 0.8 }, face: "plain_heavy" }),
  placing,
  Editor: TextEditor,
  Handles: grips(placing),
};
