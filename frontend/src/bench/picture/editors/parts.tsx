import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { addPicture, api, take } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { showError } from "../../../shared/notices";
import { NumberField } from "../../../shared/NumberField";
import { Switch } from "../../../shared/Switch";
import type { Editing } from "../editing";
import { type Tool, usePictureStore } from "../pictureStore";
import { ToneField } from "./ToneField";

function Tools({ options }: { options: [Tool, string][] }) {
  const { tool, setTool } = usePictureStore();
  return (
    <div className="field tool-row" role="group" aria-label="Tool">
      {options.map(([name, words]) => (
        <button key={name} type="button" className="chip" aria-pressed={tool === name} onClick={() => setTool(tool === name ? "none" : name)}>
          {words}
        </button>
      ))}
    </div>
  );
}

function BrushWidth() {
  const { brush, setBrush } = usePictureStore();
  return (
    <LengthField label="Brush width" value={{ mm: brush }} range={[0.2, 40]} limits={[0.1, 200]} step={0.2} slider help="Comma and full stop make it smaller and larger. Shift draws straight lines." onChange={(value) => setBrush(Math.min(200, Math.max(0.1, value.mm)))} />
  );
}

function Strokes({ count, undo }: { count: number; undo: () => void }) {
  return count === 0 ? null : (
    <div className="field field-row">
      <span className="field-help">
        {count} stroke{count === 1 ? "" : "s"}
      </span>
      <Button size="sm" variant="plain" onClick={undo}>
        Take the last away
      </Button>
    </div>
  );
}

export function IsolateEditor({ step, set }: Editing<"isolate">) {
  const { setTool } = usePictureStore();
  const strokes = step.keep.length + step.drop.length;
  return (
    <>
      <Choice
        label="The background is"
        value={step.method}
        options={[
          ["colour", "one colour"],
          ["strokes", "anything"],
        ]}
        onChange={(method) => {
          set({ method });
          setTool(method === "strokes" ? "box" : "none");
        }}
      />
      {step.method === "colour" ? (
        <>
          <Tools options={[["pick", "click the background"]]} />
          <NumberField label="Tolerance" value={step.tolerance} range={[0.005, 0.6]} step={0.005} onChange={(tolerance, r) => set({ tolerance }, r)} />
          <Switch label="Connected only" value={step.contiguous} onChange={(contiguous) => set({ contiguous })} />
          {step.places.length > 0 ? (
            <Button size="sm" variant="plain" onClick={() => set({ places: [] })}>
              Back to the edge of the picture
            </Button>
          ) : (
            <p className="field-help">Without a click, the colour along the edge of the picture.</p>
          )}
        </>
      ) : (
        <>
          <Tools options={[["box", "box"], ["keep", "keep"], ["drop", "drop"]]} />
          <p className="field-help">
            {step.box || strokes
              ? "Draw over what was missed (keep) or taken wrongly (drop)."
              : "Draw a box around the subject, then strokes on it and beside it."}
          </p>
          <BrushWidth />
          <Strokes
            count={strokes}
            undo={() => set(step.drop.length ? { drop: step.drop.slice(0, -1) } : { keep: step.keep.slice(0, -1) })}
          />
        </>
      )}
      <Switch label="Soft, clean edge" value={step.soften} onChange={(soften) => set({ soften })} />
      <LengthField label="Grow" value={step.grow} range={[-5, 5]} step={0.05} slider help="Below 0 shrinks." onChange={(grow, r) => set({ grow }, r)} />
      <LengthField label="Feather" value={step.feather} range={[0, 5]} step={0.05} slider onChange={(feather, r) => set({ feather }, r)} />
      <NumberField label="Fill holes to" unit="mm²" slider={false} value={step.fill_holes} range={[0, 1e6]} step={1} onChange={(fill_holes, r) => set({ fill_holes }, r)} />
      <NumberField label="Drop islands to" unit="mm²" slider={false} value={step.drop_islands} range={[0, 1e6]} step={1} onChange={(drop_islands, r) => set({ drop_islands }, r)} />
      <Choice
        label="The rest becomes"
        value={step.dropped}
        options={[
          ["transparent", "transparent"],
          ["tone", "a tone"],
        ]}
        onChange={(dropped) => set({ dropped })}
      />
      {step.dropped === "tone" && <ToneField label="Tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />}
    </>
  );
}

export function RemoveEditor({ step, set }: Editing<"remove">) {
  const { setTool } = usePictureStore();
  return (
    <>
      <Choice
        label="Filled from"
        value={step.fill}
        options={[
          ["surroundings", "what is around"],
          ["copy", "another place"],
        ]}
        onChange={(fill) => {
          set({ fill });
          setTool(fill === "copy" && !step.source && step.strokes.length ? "source" : "paint");
        }}
      />
      <Tools options={step.fill === "copy" ? [["paint", "paint over it"], ["source", "choose the place"]] : [["paint", "paint over it"]]} />
      <BrushWidth />
      <Strokes count={step.strokes.length} undo={() => set({ strokes: step.strokes.slice(0, -1) })} />
      {step.fill === "copy" && (
        <>
          <LengthField label="Soft edge" value={step.feather} range={[0, 10]} step={0.1} slider onChange={(feather, r) => set({ feather }, r)} />
          <Switch label="Match the light" value={step.match_light} onChange={(match_light) => set({ match_light })} />
          <p className="field-help">The chosen place lands on the start of the first stroke.</p>
        </>
      )}
    </>
  );
}

export function FillEditor({ step, set }: Editing<"fill">) {
  return (
    <>
      <Tools options={[["pick", "click an area"]]} />
      <ToneField label="Tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />
      <NumberField label="Tolerance" value={step.tolerance} range={[0.005, 0.6]} step={0.005} onChange={(tolerance, r) => set({ tolerance }, r)} />
      <Switch label="Connected only" value={step.contiguous} onChange={(contiguous) => set({ contiguous })} />
    </>
  );
}

export function BrushEditor({ step, set }: Editing<"brush">) {
  return (
    <>
      <Tools options={[["paint", "paint"], ["axis", "place the axis"]]} />
      <ToneField label="Tone" value={step.tone} onChange={(tone, r) => set({ tone }, r)} />
      <BrushWidth />
      <NumberField label="Hardness" value={step.hardness} range={[0, 1]} step={0.05} onChange={(hardness, r) => set({ hardness }, r)} />
      <Strokes count={step.strokes.length} undo={() => set({ strokes: step.strokes.slice(0, -1) })} />
      {step.mirror_x != null && (
        <Button size="sm" variant="plain" onClick={() => set({ mirror_x: null })}>
          No mirrored strokes
        </Button>
      )}
    </>
  );
}

export function OverlayEditor({ step, set }: Editing<"overlay">) {
  const chooser = useRef<HTMLInputElement>(null);
  const motifs = useQuery({
    queryKey: ["motifs", ""],
    queryFn: () => take(api.GET("/api/motifs", { params: { query: { query: "" } } })),
  });
  return (
    <>
      <input
        ref={chooser}
        type="file"
        hidden
        accept="image/*"
        aria-label="Second picture file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) addPicture(file).then(({ sha256, filename }) => set({ sha256, filename }), showError);
        }}
      />
      <div className="field d-flex gap-2 align-items-center">
        <img className="overlay-thumb" src={`/api/pictures/${step.sha256}/view.png?longest=96`} alt="" />
        <Button size="sm" variant="plain" onClick={() => chooser.current?.click()}>
          Choose a picture
        </Button>
      </div>
      {motifs.data && motifs.data.length > 0 && (
        <div className="field">
          <div className="field-label mb-1">Or a motif</div>
          <div className="swatches">
            {motifs.data.map((motif) => (
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
      <NumberField label="Width" unit="px" slider={false} value={step.wide} range={[1, 1e6]} step={5} help="In pixels of the picture brought in. Or drag it in the picture." onChange={(wide, r) => set({ wide }, r)} />
      <NumberField label="Opacity" value={step.opacity} range={[0, 1]} step={0.02} onChange={(opacity, r) => set({ opacity }, r)} />
      <Switch label="Mirrored" value={step.mirrored} onChange={(mirrored) => set({ mirrored })} />
    </>
  );
}
