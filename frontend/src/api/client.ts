import createClient from "openapi-fetch";
import { type ErrorDetail, Refusal, UNREACHABLE } from "./refusal";
import type { components, paths } from "./schema";
import { sendFile } from "./sending";

export type Schemas = components["schemas"];
export type Piece = Schemas["PieceOut"];
export type PieceCard = Schemas["PieceCard"];
export type Recipe = Schemas["Recipe-Output"];
export type Relief = Extract<Recipe["begins"], { kind: "relief" }>;
export type Body = Extract<Recipe["begins"], { kind: "body" }>;
export type Figure = Extract<Recipe["begins"], { kind: "figure" }>;
export type AnyFigurePart = Figure["parts"][number];
export type FigurePart = Extract<AnyFigurePart, { kind: "part" }>;
export type CalmRegion = Extract<AnyFigurePart, { kind: "calm" }>;
export type KeptFigure = Figure["kept"][number];
export type FinishStep = Recipe["finish"][number];
export type AnyDecoration = Body["decorations"][number];
export type Decoration = Extract<AnyDecoration, { kind: "decoration" }>;
export type Texture = Extract<AnyDecoration, { kind: "texture" }>;
export type ReadyBody = Exclude<Body["body"], { kind: "mesh" | "piece" }>;
export type BroughtMesh = Schemas["MeshOut"];
export type MeshFinding = Schemas["MeshFindingOut"];
export type Deviation = Schemas["DeviationOut"];
export type Art = Relief["art"];
export type Pictured = Schemas["Pictured-Output"];
export type Entry = Art["build_up"][number];
export type Tones = Schemas["PictureEntry-Output"];
export type Outline = Schemas["OutlineEntry-Output"]["outline"];
export type Unit = Schemas["PatternEntry-Output"]["unit"];
export type Layout = Schemas["PatternEntry-Output"]["layout"];
export type Profile = Schemas["Profile-Output"];
export type Form = Relief["form"];
export type Fitting = Relief["fittings"][number];
export type Triangles = Recipe["triangles"];
export type Light = Recipe["proof"]["light"];
export type MadeWith = Recipe["made_with"];
export type Printer = MadeWith["printer"];
export type Material = MadeWith["material"];
export type Length = Schemas["Length"];
export type Figures = Schemas["Figures"];
/** What is never missing of a piece that begins as heights. */
type Known<T, K extends keyof T> = T & { [P in K]: NonNullable<T[P]> };
export type PieceOfHeights = Known<Piece, "picture">;
export type FiguresOfHeights = Known<Figures, "picture" | "heights" | "form" | "finish">;
export type Job = Schemas["JobOut"];
export type Correction = Pictured["corrections"][number];
export type CorrectionKind = Correction["kind"];
export type Corrected = Schemas["CorrectedOut"];
export type Finding = Schemas["FindingOut"];
export type Service = Schemas["ServiceOut"];
export type Order = Schemas["OrderOut"];
export type Motif = Schemas["MotifOut"];
export type Stroke = Schemas["Stroke"];

export { type ErrorDetail, Refusal };

export const api = createClient<paths>({ baseUrl: "" });

/** The detail of any error, whoever threw it. */
export function detailOf(error: unknown): ErrorDetail {
  return error instanceof Refusal ? error.detail : UNREACHABLE;
}

/** The data of a call, or a Refusal. */
export async function take<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await call;
  if (response.ok) return data as T;
  throw new Refusal((error as { error?: ErrorDetail } | undefined)?.error ?? UNREACHABLE);
}

/** The same, for answers that hold pairs: the client's own types forget how long those are. */
export const takeAs = <T>(call: Promise<{ data?: unknown; error?: unknown; response: Response }>) => take(call) as Promise<T>;

/** A response that is not JSON when it succeeds, or a Refusal. */
export async function takeRaw(call: Promise<Response>): Promise<Response> {
  const response = await call;
  if (response.ok) return response;
  const body = (await response.json().catch(() => null)) as { error?: ErrorDetail } | null;
  throw new Refusal(body?.error ?? UNREACHABLE);
}

const WINDOW = crypto.randomUUID().slice(0, 8);

/** Says that of questions of this name, asked by this window, only the newest counts; the others are let go. */
export const newest = (name: string, signal: AbortSignal) => ({
  headers: { "X-Nebrel-Question": `${WINDOW} ${name}` },
  signal,
});

/** Post JSON, get something that is not. */
export async function postForBlob(address: string, body: unknown, options: Partial<ReturnType<typeof newest>> = {}): Promise<Blob> {
  const response = await takeRaw(
    fetch(address, {
      method: "POST",
      headers: { "Content-Type": "application/json", ...options.headers },
      signal: options.signal,
      body: JSON.stringify(body),
    }),
  );
  return response.blob();
}

/** Post JSON, get lines of JSON as they come. */
export async function* postForLines<T>(address: string, body: unknown, signal: AbortSignal): AsyncGenerator<T> {
  const response = await takeRaw(
    fetch(address, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(body),
      signal,
    }),
  );
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
  let text = "";
  for (;;) {
    const { done, value } = (await reader?.read()) ?? { done: true };
    const lines = (text + (value ?? "")).split("\n");
    text = lines.pop() ?? "";
    for (const line of lines) yield JSON.parse(line) as T;
    if (done) return;
  }
}

/** Keep a picture file, to be laid on top of another. */
export const addPicture = (file: File) => sendFile<Schemas["PictureOut"]>("/api/pictures", file);

/** Keep a drawing, to be laid on a piece. */
export const addDrawing = (file: File) => sendFile<Schemas["DrawingInfo"]>("/api/drawings", file);

/** Keep a network of one's own, once it answered a test picture. */
export const addNetwork = (file: File) => sendFile<Schemas["NetworkInfo"]>("/api/networks", file);

/** Have a model made of a picture, elsewhere; `again`, although the same is ordered already. */
export const orderModel = ({ file, again = false }: { file: File; again?: boolean }) => sendFile<Order>(`/api/orders?again=${again}`, file);

/** Keep a mesh, to be joined with another. */
export const addMesh = (file: File) => sendFile<Schemas["MeshOut"]>("/api/meshes", file);

/** A new piece from a picture file, a drawing or a mesh. */
export const bringPicture = (file: File) => sendFile<Piece>("/api/pieces", file);

export const isDrawing = (file: File) => /\.(svg|dxf)$/i.test(file.name) || file.type === "image/svg+xml";

export const isMesh = (file: File) => /\.(stl|obj|ply|off|glb|gltf|3mf)$/i.test(file.name);
