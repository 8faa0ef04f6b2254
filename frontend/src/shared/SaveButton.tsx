import { type ReactNode, useState } from "react";
import { Spinner } from "react-bootstrap";
import { Button } from "./Button";
import { download } from "./download";
import { showError } from "./notices";

interface Props {
  address: string;
  size?: "sm";
  /** The one that is meant most of the time. */
  main?: boolean;
  /** Waits until everything edited is kept: what is saved is what is seen. */
  settle: () => Promise<boolean>;
  onSaved?: () => void;
  children: ReactNode;
}

/** Saves a file of the piece as it is seen. */
export function SaveButton({ address, size, main, settle, onSaved, children }: Props) {
  const [busy, setBusy] = useState(false);
  async function save() {
    setBusy(true);
    try {
      if (!(await settle())) return;
      await download(address);
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
