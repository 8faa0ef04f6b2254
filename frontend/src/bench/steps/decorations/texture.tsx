import { api, addPicture, take, type Texture } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { ChooseFile } from "../../../shared/ChooseFile";
import { AXIS_CHOICES } from "../../../shared/axes";
import { Choice } from "../../../shared/Choice";
import { mm } from "../../../shared/format";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { showError } from "../../../shared/notices";
import { PatternSheet } from "../../../shared/PatternSheet";
import { SelectField } from "../../../shared/SelectField";
import { usePieceStore } from "../../pieceStore";
import { useState } from "react";
import type { EditorProps, StepKind } from "../kinds";
import type { DecorationContext } from ".";
import { PointButton } from "../../PointButton";

type Editing = EditorProps<Texture, DecorationContext>;

const WHERE = { all: "everywhere", facing: "what looks one way", beyond: "beyond a plane", brush: "under a brush" } as const;

function TextureEditor(props: Editing) {
  const { step, set } = props;
  const [making, setMaking] = useState(false);
  const keep = ({ sha256, filename }: { sha256: string; filename: string }) => set({ file: { sha256, filename } });
  return (
    <>
      <div className="field d-flex gap-2 align-items-center flex-wrap">
        <img className="overlay-thumb" src={`/api/pictures/${step.file.sha256}/view.png?longest=96`} alt="" />
        <Button size="sm" variant="plain" onClick={() => setMaking(true)}>
          Make another
        </Button>
        <ChooseFile size="sm" variant="plain" label="Picture of the texture" accept="image/*" onFile={(file) => void addPicture(file).then(keep, showError)}>
          Choose a picture
        </ChooseFile>
      </div>
      {making && (
        <PatternSheet
          action="Take it"
          make={async (kind, body) => keep(await take(api.POST("/api/patterns/{kind}/picture", { params: { path: { kind } }, body })))}
          onClose={() => setMaking(false)}
        />
      )}
      <LengthField
        label="Tile"
        help="How wide one of it is."
        value={step.tile}
        range={[2, 60]}
        limits={[0.5, 5000]}
        step={0.5}
        slider
        onChange={(tile, r) => set({ tile }, r)}
      />
      <LengthField label="Depth" value={step.depth} range={[0.1, 3]} limits={[0.01, 500]} step={0.1} slider onChange={(depth, r) => set({ depth }, r)} />
      <Choice
        label="It"
        value={step.way}
        options={[
          ["out", "stands out"],
          ["in", "goes in"],
          ["even", "half of each"],
        ]}
        onChange={(way) => set({ way })}
      />
      <Choice
        label="Stands high"
        value={step.raised}
        options={[
          ["light", "light"],
          ["dark", "dark"],
        ]}
        onChange={(raised) => set({ raised })}
      />
      <Choice
        label="It lies"
        value={step.lie}
        options={[
          ["sides", "from all sides"],
          ["axis", "around an axis"],
        ]}
        help={step.lie === "sides" ? "As seen from six sides, blended where the surface turns." : "As often around as fits whole."}
        onChange={(lie) => set({ lie })}
      />
      {step.lie === "axis" ? (
        <Choice label="Axis" value={step.axis} options={AXIS_CHOICES} onChange={(axis) => set({ axis })} />
      ) : (
        <NumberField label="Turn" unit="°" value={step.turn} range={[-180, 180]} step={1} onChange={(turn, r) => set({ turn }, r)} />
      )}
      <Region {...props} />
      <LengthField
        label="Finest triangles"
        help={step.detail ? undefined : "An 80th of the tile, where it needs them."}
        value={step.detail ?? { mm: step.tile.mm / 80, text: null }}
        range={[0.05, 2]}
        limits={[0.02, 50]}
        step={0.05}
        onChange={(detail, r) => set({ detail }, r)}
      />
    </>
  );
}

/** Which of the body it covers. */
function Region({ step, set, figures }: Editing) {
  const { picking, pick, dab, setDab } = usePieceStore();
  const on = picking === step.id;
  // What pointing at the piece was for belongs to what was chosen before.
  function choose(where: Texture["where"]) {
    pick(undefined);
    set({ where });
  }
  const low = figures?.mesh.low_mm["xyz".indexOf(step.beyond_axis)] ?? 0;
  const long = figures?.mesh.size_mm["xyz".indexOf(step.beyond_axis)] ?? 100;
  return (
    <>
      <SelectField label="Where" value={step.where} options={Object.entries(WHERE) as [Texture["where"], string][]} onChange={choose} />
      {step.where === "facing" && (
        <>
          <PointButton
            name="Choose a face"
            how="Point at a face of the piece."
            on={on}
            onChange={(now) =>
              pick(now ? step.id : undefined, ({ normal }) => set({ facing: normal.map((side) => Number(side.toFixed(4))) as [number, number, number] }))
            }
          />
          <NumberField label="Up to so far aside" unit="°" value={step.aside} range={[1, 180]} step={1} onChange={(aside, r) => set({ aside }, r)} />
        </>
      )}
      {step.where === "beyond" && (
        <>
          <Choice label="Across" value={step.beyond_axis} options={AXIS_CHOICES} onChange={(beyond_axis) => set({ beyond_axis })} />
          <LengthField
            label="At"
            value={step.beyond}
            range={[Math.floor(low), Math.ceil(low + long)]}
            limits={[-100_000, 100_000]}
            step={0.5}
            slider
            onChange={(beyond, r) => set({ beyond }, r)}
          />
          <Choice
            label="What lies"
            value={step.keep}
            options={[
              ["above", "above it"],
              ["below", "below it"],
            ]}
            onChange={(keep) => set({ keep })}
          />
        </>
      )}
      {step.where === "brush" && (
        <>
          <PointButton name="Brush" how="Draw on the piece." on={on} onChange={(now) => pick(now ? step.id : undefined)} />
          <p className="field-help">{step.strokes.length === 1 ? "1 stroke" : `${step.strokes.length} strokes`} so far.</p>
          <LengthField label="Brush" value={dab.size} range={[1, 40]} limits={[0.2, 200]} step={0.5} slider onChange={(size) => setDab({ size })} />
          {step.strokes.length > 0 && (
            <Button size="sm" variant="plain" className="mb-2" onClick={() => set({ strokes: step.strokes.slice(0, -1) })}>
              Take the last stroke away
            </Button>
          )}
        </>
      )}
      {step.where !== "all" && (
        <LengthField
          label="Fades over"
          help="Towards the border of where it is."
          value={step.fade}
          range={[0, 10]}
          limits={[0, 500]}
          step={0.1}
          onChange={(fade, r) => set({ fade }, r)}
        />
      )}
    </>
  );
}

export const texture: StepKind<Texture, DecorationContext> = {
  name: "Texture",
  purpose: "a tiling picture all over",
  title: ({ file }) => `${file.filename.replace(/(-\d+)?\.[^.]*$/, "") || "Texture"}, all over`,
  word: "texture",
  figure: ({ tile, depth }) => `${mm(tile.mm, 1)} mm, ${mm(depth.mm, 2)} deep`,
  Editor: TextureEditor,
};
