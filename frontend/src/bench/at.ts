import type {
  AnyDecoration,
  Art,
  Body,
  Correction,
  Entry,
  AnyFigurePart,
  Figure,
  FinishStep,
  Fitting,
  Light,
  MadeWith,
  Piece,
  PieceOfHeights,
  Pictured,
  Recipe,
  Relief,
  Tones,
  Triangles,
} from "../api/client";

/** A place in a recipe: read there, and written there. */
export interface At<T> {
  read: (recipe: Recipe) => T;
  write: (recipe: Recipe, value: T) => Recipe;
}

/** The same change wherever the recipe is by then. */
export const change =
  <T>(at: At<T>, next: (now: T) => T) =>
  (recipe: Recipe): Recipe =>
    at.write(recipe, next(at.read(recipe)));

/** Some fields of what lies there. */
export const put = <T extends object>(at: At<T>, part: Partial<T>) => change(at, (now) => ({ ...now, ...part }));

const whole: At<Recipe> = { read: (recipe) => recipe, write: (_, recipe) => recipe };

/** A field of what lies somewhere. */
export function field<T extends object, K extends keyof T>(at: At<T>, name: K): At<T[K]> {
  return {
    read: (recipe) => at.read(recipe)[name],
    write: (recipe, value) => at.write(recipe, { ...at.read(recipe), [name]: value }),
  };
}

/** Whether a piece begins as heights on a form; the stops of the others ask for none of these. */
export const hasHeights = (recipe: Recipe) => recipe.begins.kind === "relief";

/** Whether there is a picture to be seen beside the piece. */
export const hasPicture = (piece: Piece): piece is PieceOfHeights => piece.picture !== null;

export const relief = field(whole, "begins") as At<Relief>;
export const body = field(whole, "begins") as At<Body>;
export const decorations: At<AnyDecoration[]> = field(body, "decorations");
export const finishSteps: At<FinishStep[]> = field(whole, "finish");
export const art: At<Art> = field(relief, "art");
export const form = field(relief, "form");
export const fittings: At<Fitting[]> = field(relief, "fittings");
export const holder = field(relief, "holder");
export const lantern = field(relief, "lantern");
export const sheets = field(relief, "sheets");
export const triangles: At<Triangles> = field(whole, "triangles");
export const light: At<Light> = field(field(whole, "proof"), "light");
export const madeWith: At<MadeWith> = field(whole, "made_with");
export const buildUp: At<Entry[]> = field(art, "build_up");

export const figure = field(whole, "begins") as At<Figure>;
export const parts: At<AnyFigurePart[]> = field(figure, "parts");

const artPicture = field(art, "picture") as At<Pictured>;
const figurePicture = field(figure, "picture") as At<Pictured>;
const begunWith = (recipe: Recipe) => (recipe.begins.kind === "figure" ? figurePicture : artPicture);

/** The picture it begins with; the shelf keeps only pieces that have one. */
export const pictured: At<Pictured> = {
  read: (recipe) => begunWith(recipe).read(recipe),
  write: (recipe, value) => begunWith(recipe).write(recipe, value),
};
export const corrections: At<Correction[]> = field(pictured, "corrections");

/** What the tones of the picture become: an entry of the build-up. */
export const tones: At<Tones> = {
  read: (recipe) => buildUp.read(recipe).find((entry) => entry.kind === "picture") as Tones,
  write: (recipe, value) =>
    buildUp.write(
      recipe,
      buildUp.read(recipe).map((entry) => (entry.kind === "picture" ? value : entry)),
    ),
};

/** What a piece's form is called: a panel with a round edge is a disc. */
export const formKind = (recipe: Recipe) => (art.read(recipe).edge.kind === "round" ? "disc" : form.read(recipe).kind);
