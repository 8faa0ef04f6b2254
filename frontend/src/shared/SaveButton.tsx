import { type ReactNode, useState } from "react";
import { Spinner } from "react-bootstrap";
import { type ErrorDetail, type Piece, Refusal } from "../api/client";
import { make, resultAt } from "../api/products";
import { Button } from "./Button";
import { download } from "./download";
import { showError } from "./notices";

const CALLED_OFF: ErrorDetail = {
  kind: "cancelled",
  what: "work",
  why: "it was called off",
  remedy: "Start it again",
};

interface Props {
  piece: Piece;
  /** What of it. */
  product: string;
  size?: "sm";
  /** The one that is meant most of the time. */
  main?: boolean;
  /** Waits until everything edited is kept: what is saved is what is seen. */
  settle: () => Promise<boolean>;
  onSaved?: () => void;
  children: ReactNode;
}

/** Saves a file of the piece as it is seen. */
export function SaveButton({ piece, product, size, main, settle, onSaved, children }: Props) {
  const [busy, setBusy] = useState(false);
  async function save() {
    setBusy(true);
    try {
      if (!(await settle())) return;
      const job = await make(piece, product);
      if (job.state !== "done") throw new Refusal(job.error ?? CALLED_OFF);
      await download(resultAt(job, piece.name));
      onSaved?.();
    } catch (error) {
      showError(error);
    } finally {
      setBusy(false);
    }
  }
  return (
    <Button size={size} variant={main ? undefined : "plain"} autoFocus={main} disabled={busy} onClick={() => void save()}>
      {busy && <Spinner size="sm" className="me-2" />}
      {children}
    </Button>
  );
}
