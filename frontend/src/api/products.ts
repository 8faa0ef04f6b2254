import { api, type Job, type Piece, type Recipe, takeAs } from "./client";

const POLL_MS = 150;

/**
 * Have something made of a piece at full quality: the work once it is over, or let go of.
 *
 * `told` hears now and then how it stands; false lets it go on without anyone looking.
 */
export async function make(piece: Pick<Piece, "id">, name: string, recipe?: Recipe, told: (job: Job) => boolean = () => true): Promise<Job> {
  const path = { piece_id: piece.id, name };
  let job = await takeAs<Job>(api.POST("/api/pieces/{piece_id}/products/{name}", { params: { path }, body: recipe }));
  while (told(job) && (job.state === "waiting" || job.state === "working")) {
    await new Promise((resolve) => setTimeout(resolve, POLL_MS));
    job = await takeAs<Job>(api.GET("/api/jobs/{job_id}", { params: { path: { job_id: job.id } } }));
  }
  return job;
}

/** Where something that was made is to be had; with the name of its piece, to be saved. */
export const resultAt = (job: Job, piece = "") => `/api/results/${job.result}${piece && `?piece=${encodeURIComponent(piece)}`}`;
