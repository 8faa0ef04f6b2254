import type { ReactNode } from "react";
import { Modal } from "react-bootstrap";

interface Props {
  label: string;
  onClose: () => void;
  open?: boolean;
  large?: boolean;
  children: ReactNode;
}

/**
 * A sheet over the screen, with a `Modal.Header`, a body and a footer.
 *
 * What does not fit scrolls between header and footer. It is there at once: keys that are pressed
 * while it comes belong to it.
 */
export function Sheet({ label, onClose, open = true, large = false, children }: Props) {
  return (
    <Modal aria-label={label} show={open} size={large ? "lg" : undefined} animation={false} centered scrollable onHide={onClose}>
      {children}
    </Modal>
  );
}
