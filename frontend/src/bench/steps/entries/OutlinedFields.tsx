import type { ReactNode } from "react";
import { FRESH } from "../../../api/fresh";
import type { Schemas } from "../../../api/client";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import type { Outlined } from "./entry";

type Wall = Schemas["Wall-Output"];
type Bridges = Schemas["Bridges-Output"];

interface Props {
  step: Outlined;
  set: (part: Partial<Outlined>, resting?: boolean) => void;
}

/** What becomes of an outline: moved out or in, thickened, bridged, or a wall along it. */
export function OutlinedFields({ step, set }: Props) {
  return (
    <>
      <h4 className="field-group">Outline</h4>
      <LengthField label="Move it out" help="Below 0 inwards." value={step.grow} range={[-5, 5]} step={0.1} slider onChange={(grow, r) => set({ grow }, r)} />
      {step.grow.mm !== 0 && (
        <>
          <Choice
            label="Its corners"
            value={step.corners}
            options={[
              ["round", "round"],
              ["mitred", "mitred"],
              ["square", "square"],
            ]}
            onChange={(corners) => set({ corners })}
          />
          <Switch label="Both ways, as a band" value={step.band} onChange={(band) => set({ band })} />
        </>
      )}
      <LengthField
        label="Nothing thinner than"
        help="0 leaves it; 2 lines print safely. Only what is thinner is thickened."
        value={step.least}
        range={[0, 5]}
        step={0.1}
        onChange={(least, r) => set({ least }, r)}
      />
      {step.rule !== "cut" && !step.wall && (
        <Choice
          label="Edge below"
          value={step.below.kind}
          options={[
            ["sharp", "sharp"],
            ["chamfer", "chamfered"],
            ["round", "round"],
          ]}
          help={step.below.kind === "sharp" ? undefined : "Where no backing lies under it."}
          onChange={(kind) => set({ below: { ...step.below, kind } })}
        />
      )}
      {step.rule !== "cut" && !step.wall && step.below.kind !== "sharp" && (
        <LengthField
          label="Its reach"
          value={step.below.reach}
          range={[0.1, 3]}
          step={0.1}
          onChange={(reach, r) => set({ below: { ...step.below, reach } }, r)}
        />
      )}
      {step.rule === "cut" ? (
        <BridgeFields bridges={step.bridges ?? null} set={(bridges, r) => set({ bridges }, r)} />
      ) : (
        <WallFields wall={step.wall ?? null} set={set} />
      )}
    </>
  );
}

function BridgeFields({ bridges, set }: { bridges: Bridges | null; set: (bridges: Bridges | null, resting?: boolean) => void }) {
  return (
    <>
      <Switch label="Bridges hold what would fall out" value={bridges !== null} onChange={(on) => set(on ? FRESH.bridges : null)} />
      {bridges && (
        <div className="two-fields">
          <NumberField
            label="To each part"
            value={bridges.count}
            range={[1, 12]}
            step={1}
            onChange={(count, r) => set({ ...bridges, count: Math.round(count) }, r)}
          />
          <LengthField label="Wide" value={bridges.wide} range={[0.4, 10]} step={0.1} onChange={(wide, r) => set({ ...bridges, wide }, r)} />
        </div>
      )}
    </>
  );
}

function WallFields({ wall, set }: { wall: Wall | null; set: Props["set"] }) {
  const part = (values: Partial<Wall>, resting?: boolean) => wall && set({ wall: { ...wall, ...values } }, resting);
  const pair = (children: ReactNode) => <div className="two-fields">{children}</div>;
  return (
    <>
      <Switch
        label="A wall along it, to cut with"
        value={wall !== null}
        onChange={(on) => set(on ? { wall: FRESH.wall, rule: "highest", height: { mm: 14, text: null } } : { wall: null, height: { mm: 3, text: null } })}
      />
      {wall && (
        <>
          {pair(
            <>
              <LengthField label="Wall" value={wall.thick} range={[0.4, 5]} step={0.1} onChange={(thick, r) => part({ thick }, r)} />
              <LengthField label="Blade" value={wall.blade} range={[0.2, 5]} step={0.1} onChange={(blade, r) => part({ blade }, r)} />
            </>,
          )}
          <LengthField
            label="It thins over the last"
            value={wall.blade_high}
            range={[0.5, 20]}
            step={0.5}
            onChange={(blade_high, r) => part({ blade_high }, r)}
          />
          {pair(
            <>
              <LengthField label="Rim" help="Outside the outline." value={wall.rim} range={[0.5, 20]} step={0.5} onChange={(rim, r) => part({ rim }, r)} />
              <LengthField label="Rim, thick" value={wall.rim_thick} range={[0.4, 10]} step={0.2} onChange={(rim_thick, r) => part({ rim_thick }, r)} />
            </>,
          )}
          <Switch
            label="Ridges along the holes"
            value={wall.details !== null && wall.details !== undefined}
            onChange={(on) => part({ details: on ? { mm: 5, text: null } : null })}
          />
          {wall.details && (
            <LengthField
              label="They end below the blade by"
              value={wall.details}
              range={[0, 12]}
              step={0.5}
              onChange={(details, r) => part({ details: { text: null, ...details } }, r)}
            />
          )}
          {pair(
            <>
              <LengthField
                label="Gap between walls"
                help="Narrower ones are filled."
                value={wall.gap}
                range={[0, 5]}
                step={0.1}
                onChange={(gap, r) => part({ gap }, r)}
              />
              <LengthField
                label="Clearance of its stamp"
                value={wall.clearance}
                range={[0.05, 2]}
                step={0.05}
                onChange={(clearance, r) => part({ clearance }, r)}
              />
            </>,
          )}
        </>
      )}
    </>
  );
}
