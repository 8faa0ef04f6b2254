import { useState } from "react";
import { api, type Length, type Recipe, take, type Tones } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { showError } from "../../../shared/notices";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import { art, change as changeAt, corrections, put, tones } from "../../at";
import { useLight } from "../../light/useLight";
import { usePieceStore } from "../../pieceStore";
import { useInput } from "../../picture/useInput";
import type { OpenPiece } from "../../usePiece";
import type { Editing, EntryStep } from "./entry";
import { ProfileFields } from "./ProfileFields";
import { firstPins, ToneChart } from "./ToneChart";

type Pin = Tones["pins"][number];

/** What the tones of the picture become. */
function PictureEditor({ recipe, edit }: Editing<"picture">) {
  const heights = tones.read(recipe);
  const { tool, setTool } = usePieceStore();
  const [looking, setLooking] = useState(false);
  const result = useInput(recipe, corrections.read(recipe).length);
  // From the state at the time: a typed length is understood a moment after it was typed.
  const change = (next: (now: Tones) => Partial<Tones>, label: string, resting: boolean) =>
    edit(
      changeAt(tones, (now) => ({ ...now, ...next(now) })),
      label,
      resting,
    );
  const set = (part: Partial<Tones>, label: string, resting: boolean) => change(() => part, label, resting);
  const setPin = (index: number, part: Partial<Pin>, resting: boolean) =>
    change((now) => ({ pins: now.pins.map((pin, at) => (at === index ? { ...pin, ...part } : pin)) }), "pinned height", resting);

  async function recognise() {
    setLooking(true);
    try {
      const found = await take(api.POST("/api/tones", { body: { recipe } }));
      const pins = found.tones.map((tone, index) => ({ tone, mm: { mm: found.heights_mm[index] } }));
      set({ mapping: "plateaus", pins }, "recognise the flat tones", true);
    } catch (error) {
      showError(error);
    } finally {
      setLooking(false);
    }
  }

  return (
    <>
      <Choice
        label="Tones become"
        value={heights.mapping}
        options={[
          ["straight", "slope"],
          ["light", "by light"],
          ["chart", "pinned"],
          ["plateaus", "plateaus"],
        ]}
        help={
          heights.mapping === "straight"
            ? "From the backing to the full depth in a straight line."
            : heights.mapping === "light"
              ? "As thick as the light of each tone asks: held before a lamp, it shows the photograph."
              : heights.mapping === "chart"
                ? "Exactly the typed height at each pinned tone, a smooth curve between."
                : "Each tone its own flat height, or cut through; every spot takes the nearest."
        }
        onChange={(mapping) => {
          const pins = heights.pins.length ? heights.pins : firstPins(heights);
          const kept = mapping === "chart" ? pins.filter((pin) => pin.mm !== null) : pins;
          const enough = mapping === "chart" && kept.length < 2 ? firstPins(heights) : kept;
          const sloped = mapping === "straight" || mapping === "light";
          const more: Partial<Tones> = mapping === "light" ? { raised: "dark" } : {};
          set({ mapping, ...more, pins: sloped ? heights.pins : enough }, "tones to heights", true);
        }}
      />
      <ToneChart recipe={recipe} set={(next, resting) => change(next, "tone chart", resting)} />
      {heights.mapping === "light" && <LightBounds recipe={recipe} edit={edit} />}
      {heights.mapping === "light" ? null : heights.mapping === "straight" ? (
        <>
          <Choice
            label="Stands high"
            value={heights.raised}
            options={[
              ["light", "Light tones"],
              ["dark", "Dark tones"],
            ]}
            onChange={(raised) => set({ raised }, "raised tones", true)}
          />
          <LengthField
            label="Relief depth"
            help="From the top of the backing to the highest point."
            value={heights.depth}
            range={[0.2, 20]}
            step={0.1}
            slider
            onChange={(depth, resting) => set({ depth }, "relief depth", resting)}
          />
        </>
      ) : (
        <>
          <div className="field d-flex gap-2 align-items-center flex-wrap">
            <button type="button" className="chip" aria-pressed={tool === "pin"} onClick={() => setTool(tool === "pin" ? "none" : "pin")}>
              pin a tone in the picture
            </button>
            {heights.mapping === "plateaus" && (
              <button type="button" className="chip" disabled={looking} onClick={() => void recognise()}>
                recognise the flat tones
              </button>
            )}
          </div>
          <Pins heights={heights} setPin={setPin} set={set} />
        </>
      )}
      {heights.mapping !== "plateaus" ? (
        <>
          <LengthField
            label="Smooth"
            value={heights.smooth}
            range={[0, 5]}
            step={0.05}
            slider
            onChange={(smooth, resting) => set({ smooth }, "smoothing", resting)}
          />
          {heights.smooth.mm > 0 && <Switch label="Keep edges" value={heights.keep_edges} onChange={(keep_edges) => set({ keep_edges }, "edges", true)} />}
          <NumberField
            label="Squeeze large steps"
            help="For photographs and depth pictures: at 0.5 a large step is half as high; fine detail stays."
            value={heights.compression.strength}
            range={[0, 1]}
            step={0.05}
            onChange={(strength, resting) => change((now) => ({ compression: { ...now.compression, strength } }), "relief compression", resting)}
          />
          {heights.compression.strength > 0 && (
            <NumberField
              label="Detail"
              help="0 takes fine detail away, 0.3 leaves it as it is, 1 makes it half as strong again."
              value={heights.compression.detail}
              range={[0, 1]}
              step={0.05}
              onChange={(detail, resting) => change((now) => ({ compression: { ...now.compression, detail } }), "relief detail", resting)}
            />
          )}
        </>
      ) : (
        <ProfileFields profile={heights.profile} set={(profile, resting) => set({ profile }, "edge profile", resting)} />
      )}
      {result?.transparent && (
        <Switch label="Cut through what is dropped" value={heights.cut_dropped} onChange={(cut_dropped) => set({ cut_dropped }, "cut through", true)} />
      )}
      {result?.transparent && heights.cut_dropped && heights.mapping !== "plateaus" && (
        <ProfileFields profile={heights.profile} set={(profile, resting) => set({ profile }, "edge profile", resting)} />
      )}
    </>
  );
}

/** Thinnest and thickest of a panel that is lit, and what the material makes of them. */
function LightBounds({ recipe, edit }: { recipe: Recipe; edit: OpenPiece["edit"] }) {
  const { backing } = art.read(recipe);
  const { printer, material } = recipe.made_with;
  const light = useLight(recipe, true);
  const thin = backing.mm;
  const thick = Number((thin + tones.read(recipe).depth.mm).toFixed(4));
  // The two are a print layer apart at least.
  const apart = (mm: number) => Number(mm.toFixed(4));
  const [highest, lowest] = [apart(thick - printer.layer_mm), apart(thin + printer.layer_mm)];

  const setBounds = (low: Length, high: number, label: string, resting: boolean) =>
    edit((now) => put(tones, { depth: { mm: Number((high - low.mm).toFixed(4)) } })(put(art, { backing: low })(now)), label, resting);

  return (
    <>
      <LengthField
        label="Thinnest"
        help="The whole thickness of white."
        value={backing}
        range={[0.2, Math.min(5, highest)]}
        limits={[0.2, highest]}
        step={0.05}
        slider
        onChange={(backing, resting) => setBounds(backing, thick, "thinnest", resting)}
      />
      <LengthField
        label="Thickest"
        help="The whole thickness of black."
        value={{ mm: thick }}
        range={[Math.max(0.5, lowest), 8]}
        limits={[lowest, 100]}
        step={0.05}
        slider
        onChange={(value, resting) => setBounds(backing, value.mm, "thickest", resting)}
      />
      <p className="field-help">
        {material.name}, {mm(material.attenuation_per_mm, 3)} per mm.
        {light &&
          ` ${mm(light.carried * 100, 0)} % of the picture is shown exactly, down to tone ${mm(light.exact_tone)}; what is darker rolls off to ${mm(light.darkest_tone)}.`}
      </p>
    </>
  );
}

interface PinsProps {
  heights: Tones;
  setPin: (index: number, part: Partial<Pin>, resting: boolean) => void;
  set: (part: Partial<Tones>, label: string, resting: boolean) => void;
}

function Pins({ heights, setPin, set }: PinsProps) {
  return (
    <>
      <ol className="pins" aria-label="Pinned tones">
        {heights.pins.map((pin, index) => {
          const gray = Math.round(pin.tone * 255);
          const name = `Tone ${mm(pin.tone, 3)}`;
          return (
            <li key={`${pin.tone}-${index}`}>
              <span className="swatch" style={{ background: `rgb(${gray},${gray},${gray})` }} aria-hidden="true" />
              {pin.mm === null ? (
                <div className="field field-row pin-cut">
                  <span>{name}</span>
                  <span className="mono">cut through</span>
                </div>
              ) : (
                <LengthField
                  label={name}
                  value={pin.mm ?? { mm: 1 }}
                  range={[0, 20]}
                  step={0.1}
                  onChange={(value, resting) => setPin(index, { mm: value }, resting)}
                />
              )}
              <div className="pin-actions">
                {heights.mapping === "plateaus" && (
                  <button type="button" className="btn btn-sm btn-link" onClick={() => setPin(index, { mm: pin.mm === null ? { mm: 1 } : null }, true)}>
                    {pin.mm === null ? "give it a height" : "cut through"}
                  </button>
                )}
                <button
                  type="button"
                  className="btn btn-sm btn-link"
                  disabled={heights.pins.length <= (heights.mapping === "chart" ? 2 : 1)}
                  onClick={() => set({ pins: heights.pins.filter((_, at) => at !== index) }, "unpin a tone", true)}
                >
                  unpin
                </button>
              </div>
            </li>
          );
        })}
      </ol>
      <Button size="sm" variant="plain" onClick={() => set({ pins: firstPins(heights) }, "pins", true)}>
        Begin again with black and white
      </Button>
    </>
  );
}

const byPins = ({ mapping }: Tones) => mapping === "chart" || mapping === "plateaus";

export const picture: EntryStep<"picture"> = {
  name: "Picture",
  purpose: "its tones as heights",
  also: "height map, emboss, engrave, lithophane",
  only: true,
  figure: ({ mapping, depth, pins }, { recipe }) => {
    const { backing } = art.read(recipe);
    if (mapping === "light") return `${mm(backing.mm)} to ${mm(backing.mm + depth.mm)} mm`;
    if (mapping === "straight") return `0 to ${mm(depth.mm)} mm`;
    const tops = pins.flatMap((pin) => (pin.mm ? [pin.mm.mm] : []));
    return tops.length ? `${mm(Math.min(...tops))} to ${mm(Math.max(...tops))} mm` : "";
  },
  Editor: PictureEditor,
  tools: {
    pin: {
      by: "click",
      offered: byPins,
      // Pinned to the height that it has now.
      done: ({ pins }, { tone, height }) => {
        const at = tone();
        if (pins.some((other) => Math.abs(other.tone - at) < 0.004)) return undefined;
        const next = [...pins, { tone: at, mm: { mm: Number(Math.max(0, height()).toFixed(2)) } }];
        return { part: { pins: next.sort((a, b) => a.tone - b.tone) }, label: "pin a tone" };
      },
    },
  },
};
