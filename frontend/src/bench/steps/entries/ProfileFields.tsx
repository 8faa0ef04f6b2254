import type { Profile } from "../../../api/client";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { SelectField } from "../../../shared/SelectField";

const KINDS: [Profile["kind"], string][] = [
  ["sharp", "sharp"],
  ["chamfer", "chamfer"],
  ["round", "round"],
  ["cove", "cove"],
  ["pillow", "pillow"],
];

interface Props {
  profile: Profile;
  set: (profile: Profile, resting: boolean) => void;
}

/** How something ends at its outline. */
export function ProfileFields({ profile, set }: Props) {
  return (
    <>
      <SelectField
        label="Edge"
        value={profile.kind}
        options={KINDS}
        onChange={(kind) => set({ ...profile, kind, reach: { mm: kind === "pillow" ? 0 : profile.reach.mm || 1 } }, true)}
      />
      {profile.kind !== "sharp" && (
        <LengthField
          label="Reach"
          help={profile.kind === "pillow" ? "How far in from the edge it rises; 0 to the middle." : "How far in from the edge."}
          value={profile.reach}
          range={[0, 20]}
          step={0.1}
          slider
          onChange={(reach, resting) => set({ ...profile, reach }, resting)}
        />
      )}
      {profile.kind === "pillow" && (
        <NumberField
          label="Softness"
          help="0 is a roof, 1 a dome."
          value={profile.softness}
          range={[0, 1]}
          step={0.05}
          onChange={(softness, resting) => set({ ...profile, softness }, resting)}
        />
      )}
    </>
  );
}
