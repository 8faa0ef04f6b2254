import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { SelectField } from "../../../shared/SelectField";
import type { Editing, EntryStep } from "./entry";
import { joinFigure, JoinFields } from "./fields";

const SECTIONS = [
  ["square", "square"],
  ["chamfered", "chamfered"],
  ["rounded", "rounded"],
  ["stepped", "stepped"],
] as const;

function FrameEditor({ step, set }: Editing<"frame">) {
  return (
    <JoinFields entry={step} set={set as never}>
      <LengthField label="Frame width" value={step.wide} range={[0.4, 30]} step={0.1} slider onChange={(wide, r) => set({ wide }, r)} />
      <LengthField label="In from the edge" value={step.inset} range={[0, 30]} step={0.1} onChange={(inset, r) => set({ inset }, r)} />
      <Choice
        label="Follows"
        value={step.along}
        options={[
          ["edge", "the edge"],
          ["outline", "the outline"],
        ]}
        onChange={(along) => set({ along })}
      />
      <SelectField label="Section" value={step.section} options={SECTIONS} onChange={(section) => set({ section })} />
    </JoinFields>
  );
}

export const frame: EntryStep<"frame"> = {
  name: "Frame",
  purpose: "along the edge or the outline",
  also: "border, rim, coin",
  figure: joinFigure,
  Editor: FrameEditor,
};
