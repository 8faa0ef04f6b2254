import { Modal } from "react-bootstrap";
import { useBlocker } from "react-router";
import { Button } from "../shared/Button";
import type { OpenPiece } from "./usePiece";
import { Sheet } from "../shared/Sheet";

/** Asks before a bench is left whose last change the server has not got. */
export function LeaveSheet({ open }: { open: OpenPiece }) {
  const stuck = open.pending && (open.save === "away" || open.save === "overtaken" || open.save === "gone");
  const blocker = useBlocker(({ currentLocation, nextLocation }) => stuck && currentLocation.pathname !== nextLocation.pathname);
  if (blocker.state !== "blocked") return null;
  return (
    <Sheet label="The last change is not saved yet" onClose={() => blocker.reset()}>
      <Modal.Header closeButton>
        <Modal.Title as="h2">The last change is not saved yet</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {open.save === "away"
          ? "The server does not answer. The change stays in this window and is tried again, as long as the window is open."
          : "It waits for you to choose which change is kept. It stays in this window until you come back to this piece."}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={() => blocker.proceed()}>
          Leave
        </Button>
        <Button autoFocus onClick={() => blocker.reset()}>
          Stay
        </Button>
      </Modal.Footer>
    </Sheet>
  );
}
