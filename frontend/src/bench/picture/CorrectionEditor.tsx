import type { Correction, Recipe } from "../../api/client";
import { CurveEditor } from "./editors/CurveEditor";
import { CropEditor, EnlargeEditor, ExtendEditor, MirrorEditor, ResizeEditor, TileEditor, TrueSizeEditor, TurnEditor } from "./editors/frame";
import { LevelsEditor } from "./editors/LevelsEditor";
import { BrushEditor, FillEditor, IsolateEditor, OverlayEditor, RemoveEditor } from "./editors/parts";
import { DespeckleEditor, SmoothEditor, ThickenEditor } from "./editors/cleaning";
import {
  ContrastEditor,
  EvenLightEditor,
  ExposureEditor,
  LocalContrastEditor,
  ReadFromEditor,
  ThresholdEditor,
  ToneStepsEditor,
} from "./editors/tones";

export interface EditorProps {
  step: Correction;
  index: number;
  recipe: Recipe;
  /** Change some of it, whatever else of it has changed meanwhile. */
  change: (part: Partial<Correction>, resting: boolean) => void;
}

/** The numbers of one correction. */
export function CorrectionEditor({ step, index, recipe, change }: EditorProps) {
  const set = (part: object, resting = true) => change(part as Partial<Correction>, resting);
  const rest = { index, recipe, set };
  switch (step.kind) {
    case "crop":
      return <CropEditor step={step} {...rest} />;
    case "turn":
      return <TurnEditor step={step} {...rest} />;
    case "mirror":
      return <MirrorEditor step={step} {...rest} />;
    case "resize":
      return <ResizeEditor step={step} {...rest} />;
    case "enlarge":
      return <EnlargeEditor step={step} {...rest} />;
    case "extend":
      return <ExtendEditor step={step} {...rest} />;
    case "true_size":
      return <TrueSizeEditor step={step} {...rest} />;
    case "tile":
      return <TileEditor step={step} {...rest} />;
    case "levels":
      return <LevelsEditor step={step} {...rest} />;
    case "curve":
      return <CurveEditor step={step} {...rest} />;
    case "invert":
      return <p className="field-help mb-0">Dark becomes light and light dark. Nothing to set.</p>;
    case "contrast":
      return <ContrastEditor step={step} {...rest} />;
    case "local_contrast":
      return <LocalContrastEditor step={step} {...rest} />;
    case "exposure":
      return <ExposureEditor step={step} {...rest} />;
    case "even_light":
      return <EvenLightEditor step={step} {...rest} />;
    case "read_from":
      return <ReadFromEditor step={step} {...rest} />;
    case "tone_steps":
      return <ToneStepsEditor step={step} {...rest} />;
    case "threshold":
      return <ThresholdEditor step={step} {...rest} />;
    case "smooth":
      return <SmoothEditor step={step} {...rest} />;
    case "despeckle":
      return <DespeckleEditor step={step} {...rest} />;
    case "thicken":
      return <ThickenEditor step={step} {...rest} />;
    case "isolate":
      return <IsolateEditor step={step} {...rest} />;
    case "remove":
      return <RemoveEditor step={step} {...rest} />;
    case "fill":
      return <FillEditor step={step} {...rest} />;
    case "brush":
      return <BrushEditor step={step} {...rest} />;
    case "overlay":
      return <OverlayEditor step={step} {...rest} />;
  }
}
