import { useRef } from "react";
import { addPicture } from "../../../api/client";
import { COLOURS } from "../../../shared/colours";
import { ChooseFile } from "../../../shared/ChooseFile";
import { Choice } from "../../../shared/Choice";
import { NumberField } from "../../../shared/NumberField";
import { showError } from "../../../shared/notices";
import { Switch } from "../../../shared/Switch";
import { fromPlace, type Spot, toPlace } from "../../picture/frame";
import { Grip, type Moved, useDrag, useKeyDrag } from "../../picture/grips";
import { useMotifs } from "../useMotifs";
import { middle } from "./words";
import type { CorrectionStep, Editing, Handling } from "./correction";

function OverlayEditor({ step, set }: Editing<"overlay">) {
  const motifs = useMotifs();
  return (
    <>
      <div className="field d-flex gap-2 align-items-center">
        <img className="overlay-thumb" src={`/api/pictures/${step.sha256}/view.png?longest=96`} alt="" />
        <ChooseFile
          size="sm"
          variant="plain"
          label="Second picture file"
          accept="image/*"
          onFile={(file) => void addPicture(file).then(({ sha256, filename }) => set({ sha256, filename }), showError)}
        >
          Choose a picture
        </ChooseFile>
      </div>
      {motifs.length > 0 && (
        <div className="field">
          <div className="field-label mb-1">Or a motif</div>
          <div className="swatches">
            {motifs.map((motif) => (
              <button
                key={motif.id}
                type="button"
                className="motif-swatch"
                aria-pressed={motif.picture.sha256 === step.sha256}
                aria-label={`Motif ${motif.name}`}
                title={motif.name}
                onClick={() => set({ sha256: motif.picture.sha256, filename: motif.name })}
              >
                <img src={`/api/pictures/${motif.picture.sha256}/view.png?longest=96`} alt="" />
              </button>
            ))}
          </div>
        </div>
      )}
      <Choice
        label="Joined by"
        value={step.blend}
        options={[
          ["replace", "replace"],
          ["lighten", "lighten"],
          ["darken", "darken"],
          ["multiply", "multiply"],
        ]}
        onChange={(blend) => set({ blend })}
      />
      <Choice
        label="What of it shows"
        value={step.mask}
        options={[
          ["alpha", "all that is solid"],
          ["dark", "its dark"],
          ["light", "its light"],
        ]}
        onChange={(mask) => set({ mask })}
      />
      <NumberField label="Turn" unit="°" value={step.degrees} range={[-180, 180]} step={1} onChange={(degrees, r) => set({ degrees }, r)} />
      <NumberField
        label="Width"
        unit="px"
        slider={false}
        value={step.wide}
        range={[1, 1e6]}
        step={5}
        help="In pixels of the picture brought in. Or drag it in the picture."
        onChange={(wide, r) => set({ wide }, r)}
      />
      <NumberField label="Opacity" value={step.opacity} range={[0, 1]} step={0.02} onChange={(opacity, r) => set({ opacity }, r)} />
      <Switch label="Mirrored" value={step.mirrored} onChange={(mirrored) => set({ mirrored })} />
    </>
  );
}

function OverlayFrame({ step, frame, change }: Handling<"overlay">) {
  const old = useRef(step);
  const centre = fromPlace(frame, step.centre);
  const edge = fromPlace(frame, [step.centre[0] + step.wide / 2, step.centre[1]]);
  const reach = Math.hypot(edge[0] - centre[0], edge[1] - centre[1]);
  const turn = (-step.degrees * Math.PI) / 180;
  const grip: Spot = [centre[0] + reach * Math.cos(turn), centre[1] + reach * Math.sin(turn)];
  const shift: Moved = (spot, start, resting) => {
    const [cx, cy] = fromPlace(frame, old.current.centre);
    change({ centre: toPlace(frame, [cx + spot[0] - start[0], cy + spot[1] - start[1]]) }, resting);
  };
  const move = { ...useDrag(shift), ...useKeyDrag(frame, centre, shift) };
  const pull = (spot: Spot, _: Spot, resting: boolean) => {
    const long = Math.max(4, Math.hypot(spot[0] - centre[0], spot[1] - centre[1]));
    const degrees = (-Math.atan2(spot[1] - centre[1], spot[0] - centre[0]) * 180) / Math.PI;
    const near = Math.round(degrees / 15) * 15;
    change(
      {
        wide: Number(((step.wide * long) / Math.max(reach, 1)).toFixed(1)),
        degrees: Math.abs(near - degrees) < 3 ? near : Math.round(degrees * 10) / 10,
      },
      resting,
    );
  };
  const remember = () => {
    old.current = step;
  };
  return (
    <g onPointerDownCapture={remember} onKeyDownCapture={remember}>
      <circle
        role="button"
        aria-label="Second picture"
        className="grab"
        cx={centre[0]}
        cy={centre[1]}
        r={Math.max(14, reach * 0.92)}
        fill="transparent"
        stroke={COLOURS.madder}
        strokeDasharray="6 4"
        {...move}
      />
      <line x1={centre[0]} y1={centre[1]} x2={grip[0]} y2={grip[1]} stroke={COLOURS.madder} pointerEvents="none" />
      <Grip spot={grip} label="Size and turn" frame={frame} onDrag={pull} />
    </g>
  );
}

export const overlay: CorrectionStep<"overlay"> = {
  name: "Second picture",
  purpose: "lay another picture or a motif on top",
  also: "layer, composite, blend",
  group: "Parts",
  figure: (step) => step.filename || step.blend,
  fresh: (context) => ({
    sha256: context.piece.picture.sha256,
    centre: middle(context),
    wide: context.piece.picture.cols / 2,
  }),
  Editor: OverlayEditor,
  Handles: OverlayFrame,
};
