import type { ErrorDetail } from "../api/client";

/** Whether the same may be asked again with another outcome. */
export const passing = ({ kind }: ErrorDetail) => ["unreachable", "error", "busy", "timed_out", "storage_failed"].includes(kind);
