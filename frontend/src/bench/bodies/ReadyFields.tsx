import type { Length, ReadyBody } from "../../api/client";
import { LengthField } from "../../shared/LengthField";
import { READY_SHAPES } from "../../shared/readyShapes";
import { Switch } from "../../shared/Switch";
import { ProfileDrawn } from "./ProfileDrawn";

interface Props {
  body: ReadyBody;
  set: (part: Partial<ReadyBody>, label: string, resting: boolean) => void;
}

const NONE_IS_FINE = new Set(["corner", "round", "rim_tall", "top", "wall"]);

/** The sizes of a ready shape, mm. */
export function ReadyFields({ body, set }: Props) {
  const { sizes } = READY_SHAPES[body.kind];
  return (
    <>
      {body.kind === "bottle" && (
        <>
          <ProfileDrawn
            places={body.profile as [number, number][]}
            smooth={body.smooth}
            onChange={(profile, resting) => set({ profile }, "profile", resting)}
          />
          <Switch label="Softly through its places" value={body.smooth} onChange={(smooth) => set({ smooth }, "profile", true)} />
        </>
      )}
      {Object.entries(sizes).map(([name, label]) => {
        const value = (body as unknown as Record<string, Length>)[name];
        const least = NONE_IS_FINE.has(name) ? 0 : 0.2;
        return (
          <LengthField
            key={name}
            label={label}
            help={body.kind === "bottle" && name === "wall" ? "0 leaves it solid." : undefined}
            value={value}
            range={[least, Math.max(20, Math.ceil(value.mm / 50) * 100)]}
            limits={[least, 2000]}
            step={0.5}
            slider
            onChange={(length, resting) => set({ [name]: length } as Partial<ReadyBody>, label.toLowerCase(), resting)}
          />
        );
      })}
    </>
  );
}
