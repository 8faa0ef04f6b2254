import type { ErrorDetail } from "../api/client";

/** What a field gives along with a change. */
export interface Handed {
  /** Edits of one typing become one step. */
  typing?: object;
  /** Where a refusal of the change goes. */
  refused?: (detail: ErrorDetail) => void;
}

let handed: Handed = {};

/**
 * Hand a change on from a field. Between the field and whoever keeps the change lie editors
 * and panels that need not know of this.
 */
export function handOn(along: Handed, change: () => void) {
  handed = along;
  try {
    change();
  } finally {
    handed = {};
  }
}

/** What the field gave along with the change that is being made. */
export const handedOn = () => handed;
