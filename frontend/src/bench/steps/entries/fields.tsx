import type { ReactNode } from "react";
import { LengthField } from "../../../shared/LengthField";
import { mm } from "../../../shared/format";
import { NumberField } from "../../../shared/NumberField";
import { SelectField } from "../../../shared/SelectField";
import type { Joined, Placed } from "./entry";
import { ProfileFields } from "./ProfileFields";

const RULES = [
  ["replace", "replace"],
  ["add", "add"],
  ["highest", "highest of both"],
  ["lowest", "lowest of both"],
  ["cut", "cut through"],
] as const;

interface Props<E> {
  entry: E;
  set: (part: Partial<E>, resting?: boolean) => void;
  children: ReactNode;
}

/** How an entry joins what lies below it, and its own fields. */
export function JoinFields({ entry, set, children }: Props<Joined>) {
  return (
    <>
      <SelectField label="Joins by" value={entry.rule} options={RULES} onChange={(rule) => set({ rule })} />
      {entry.rule !== "cut" && (
        <LengthField
          label="Height"
          help={entry.rule === "add" ? "Added to what lies below; below 0 it is sunk." : "Above the top of the backing."}
          value={entry.height}
          range={[-10, 20]}
          step={0.1}
          slider
          onChange={(height, r) => set({ height }, r)}
        />
      )}
      {children}
    </>
  );
}

/** The same of an entry that has a place and an edge. */
export function PlaceFields({ entry, set, draggable = true, children }: Props<Placed> & { draggable?: boolean }) {
  return (
    <JoinFields entry={entry} set={set as Props<Joined>["set"]}>
      {children}
      {entry.rule !== "cut" && !("wall" in entry && entry.wall) && <ProfileFields profile={entry.profile} set={(profile, r) => set({ profile }, r)} />}
      <div className="two-fields">
        <LengthField label="Right" value={entry.x} range={[-500, 500]} step={0.5} onChange={(x, r) => set({ x }, r)} />
        <LengthField label="Up" value={entry.y} range={[-500, 500]} step={0.5} onChange={(y, r) => set({ y }, r)} />
      </div>
      <NumberField
        label="Turn"
        unit="°"
        value={entry.turn}
        range={[-180, 180]}
        step={1}
        help={`Place and turn count from the middle${draggable ? "; or drag it in the picture" : ""}.`}
        onChange={(turn, r) => set({ turn }, r)}
      />
    </JoinFields>
  );
}

/** What the list says of it. */
export const joinFigure = (entry: Joined) => (entry.rule === "cut" ? "cut through" : `${mm(entry.height.mm)} mm`);
