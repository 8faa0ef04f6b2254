import type {
  Art,
  Correction,
  Decoration,
  Entry,
  CalmRegion,
  Figure,
  FigurePart,
  KeptFigure,
  FinishStep,
  Fitting,
  Form,
  Layout,
  Material,
  Outline,
  Pictured,
  Printer,
  Profile,
  ReadyBody,
  Relief,
  Schemas,
  Texture,
  Unit,
} from "./client";
import steps from "./fresh.json";

interface Kinded {
  kind: string;
}

/** By its kind, what a fresh step says; a file that it needs is not in it. */
type Fresh<T extends Kinded> = { [K in T["kind"]]: Omit<Extract<T, { kind: K }>, "id"> };

interface Steps {
  corrections: Fresh<Correction>;
  entries: Fresh<Entry>;
  fittings: Fresh<Fitting>;
  finish: Fresh<FinishStep>;
  forms: Fresh<Form>;
  outlines: Fresh<Outline>;
  units: Fresh<Unit>;
  layouts: Fresh<Layout>;
  bodies: Fresh<ReadyBody>;
  profile: Profile;
  wall: Schemas["Wall-Output"];
  bridges: Schemas["Bridges-Output"];
  edge: Schemas["Edge-Output"];
  art: Art;
  pictured: Omit<Pictured, "file">;
  decoration: Omit<Decoration, "id" | "art">;
  texture: Omit<Texture, "id" | "file">;
  relief: Omit<Relief, "art">;
  figure: Omit<Figure, "picture">;
  part: Omit<FigurePart, "id">;
  calm: Omit<CalmRegion, "id">;
  kept_figure: Omit<KeptFigure, "id">;
  axis: NonNullable<Figure["axis"]>;
  network: Omit<NonNullable<Figure["network"]>, "file">;
  printer: Omit<Printer, "id">;
  material: Omit<Material, "id">;
}

/** The defaults of the core's own models, made with the types. */
export const FRESH = steps as unknown as Steps;

/** An id that no other step of a recipe has. */
export const newId = (list: string) => `${list}-${crypto.randomUUID().slice(0, 8)}`;
