import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { BufferGeometry, Mesh } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { api, detailOf, type ErrorDetail, type Figures, type Job, type Piece, type Recipe, takeRaw } from "../api/client";
import { make, resultAt } from "../api/products";
import { useOld } from "../shared/old";
import { useDraft } from "./useDraft";

/** Work that takes longer than this shows its progress. */
const PATIENCE_MS = 500;

export interface ShownMesh {
  /** The recipe it was made from. */
  recipe: Recipe;
  geometry: BufferGeometry;
  figures: Figures;
  /** When the change that led here was made, and what the server needed, ms. */
  timing: { asked: number; server: number; received: number };
}

export interface PieceMesh {
  shown: ShownMesh | undefined;
  /** Its figures, where they are of a piece of this kind. */
  figures: Figures | undefined;
  /** What is shown is of another recipe than the one on the screen: the new one is not made yet, or cannot be. */
  follows: boolean;
  /** The draft of it, for finding what is under the pointer. */
  proxy: BufferGeometry | undefined;
  /** Full-quality work worth showing: share done and step. */
  work: Pick<Job, "done" | "step"> | undefined;
  problem: ErrorDetail | undefined;
  cancel: () => void;
  /** The full-quality work was called off; what is shown is a draft. */
  calledOff: boolean;
  /** A draft that takes long, or was called off. */
  drafting: { long: boolean; off: boolean; callOff: () => void };
  again: () => void;
}

const loader = new GLTFLoader();

async function unpack(data: ArrayBuffer): Promise<Pick<ShownMesh, "geometry" | "figures">> {
  const gltf = await loader.parseAsync(data, "");
  const mesh = gltf.scene.children[0] as Mesh;
  // glTF means metres and y up; ours is mm and z up as computed, so only the geometry is used.
  return { geometry: mesh.geometry, figures: gltf.asset.extras as Figures };
}

export async function askDraft(recipe: Recipe, signal?: AbortSignal): Promise<ShownMesh> {
  const asked = performance.now();
  const response = await takeRaw(
    fetch("/api/preview", {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(recipe),
      signal,
    }),
  );
  const data = await response.arrayBuffer();
  const received = performance.now();
  const server = Number(/dur=([\d.]+)/.exec(response.headers.get("Server-Timing") ?? "")?.[1]);
  return { ...(await unpack(data)), recipe, timing: { asked, server, received } };
}

/**
 * What to show once a draft has come.
 *
 * The full mesh of what is wanted may have come first. No draft takes its place, of this recipe or
 * of one before: it is not asked for again.
 */
export function better(now: ShownMesh | undefined, draft: ShownMesh, wanted: Recipe | undefined): ShownMesh {
  return now?.figures.quality === "full" && now.recipe === wanted ? now : draft;
}

/** What can be said of a recipe by what is shown: figures of another kind of piece are none. */
export function said(shown: ShownMesh | undefined, recipe: Recipe | undefined): Pick<PieceMesh, "figures" | "follows"> {
  if (!shown || !recipe) return { figures: undefined, follows: true };
  const figures = shown.recipe.begins.kind === recipe.begins.kind ? shown.figures : undefined;
  // One that was read back from the server is the same and another object.
  return { figures, follows: shown.recipe !== recipe && JSON.stringify(shown.recipe) !== JSON.stringify(recipe) };
}

/** The mesh of a piece: a draft while it is edited, full quality when it is kept. */
export function usePieceMesh(piece: Piece | undefined, recipe: Recipe | undefined): PieceMesh {
  const [shown, setShown] = useState<ShownMesh>();
  const [proxy, setProxy] = useState<BufferGeometry>();
  const [work, setWork] = useState<Pick<Job, "done" | "step">>();
  const [problem, setProblem] = useState<ErrorDetail>();
  const [calledOff, setCalledOff] = useState(false);
  const [round, setRound] = useState(0);
  const wanted = useRef(recipe);
  useEffect(() => {
    wanted.current = recipe;
  }, [recipe]);
  const jobId = useRef("");

  const draft = useDraft(recipe, askDraft, (mesh) => {
    setProxy(mesh.geometry);
    setShown((now) => better(now, mesh, wanted.current));
    setProblem(undefined);
  });
  useEffect(() => {
    if (draft.problem) setProblem(draft.problem);
  }, [draft.problem]);

  // Full quality: once the kept recipe is the one on the screen.
  const kept = piece !== undefined && recipe === piece.recipe ? recipe : undefined;
  const pieceId = piece?.id ?? "";
  // Another one, too, when a piece that this one is joined with has become another.
  const state = piece?.state ?? "";
  useEffect(() => {
    if (!kept) return;
    let dropped = false;
    const asked = performance.now();
    setCalledOff(false);
    const told = (job: Job) => {
      jobId.current = job.id;
      if (!dropped && performance.now() - asked > PATIENCE_MS) setWork({ done: job.done, step: job.step });
      return !dropped;
    };
    void (async () => {
      try {
        const job = await make({ id: pieceId }, "piece.glb", kept, told);
        if (dropped) return;
        if (job.state === "cancelled") {
          setCalledOff(true);
          return;
        }
        if (job.state === "failed") {
          if (job.error) setProblem(job.error);
          return;
        }
        const response = await takeRaw(fetch(resultAt(job)));
        const data = await response.arrayBuffer();
        const received = performance.now();
        const mesh = await unpack(data);
        if (dropped) return;
        setShown({ ...mesh, recipe: kept, timing: { asked, server: 0, received } });
        setProblem(undefined);
      } catch (error) {
        if (!dropped) setProblem(detailOf(error));
      } finally {
        if (!dropped) setWork(undefined);
      }
    })();
    return () => {
      dropped = true;
      setWork(undefined);
    };
  }, [kept, pieceId, state, round]);

  const cancel = useCallback(() => {
    void api.DELETE("/api/jobs/{job_id}", { params: { path: { job_id: jobId.current } } });
  }, []);
  const { again: drawAgain } = draft;
  const again = useCallback(() => {
    drawAgain();
    setRound((now) => now + 1);
  }, [drawAgain]);

  useOld("the piece", problem, again);

  const drafting = { long: draft.long && !work, off: draft.off, callOff: draft.callOff };
  const told = useMemo(() => said(shown, recipe), [shown, recipe]);
  return { shown, ...told, proxy, work, problem, cancel, calledOff, again, drafting };
}
