import type { components } from "./schema";

export type ErrorDetail = components["schemas"]["ErrorDetail"];

/** What the server refused: what, why, and what to do about it. */
export class Refusal extends Error {
  constructor(readonly detail: ErrorDetail) {
    super(`${detail.what}: ${detail.why}`);
  }
}

export const UNREACHABLE: ErrorDetail = {
  kind: "unreachable",
  what: "Nebrel",
  why: "the server does not answer",
  remedy: "Check that it still runs; what was saved is safe",
};
