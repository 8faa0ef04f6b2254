import { useMutation } from "@tanstack/react-query";
import { Modal } from "react-bootstrap";
import { api, type Piece, type ReadyBody, takeAs } from "../api/client";
import { FRESH } from "../api/fresh";
import { showError } from "../shared/notices";
import { READY_SHAPES, type ReadyKind, ReadyMark } from "../shared/readyShapes";
import { Sheet } from "../shared/Sheet";

interface Props {
  onMade: (piece: Piece) => void;
  onClose: () => void;
}

const KINDS = Object.keys(READY_SHAPES) as ReadyKind[];

/** A piece that begins with a ready shape, its sizes open to the end. */
export function ShapeSheet({ onMade, onClose }: Props) {
  const begin = useMutation({
    mutationFn: (kind: ReadyKind) =>
      takeAs<Piece>(api.POST("/api/pieces/bodies", { body: { body: FRESH.bodies[kind] as ReadyBody, name: READY_SHAPES[kind].name } })),
    onSuccess: (piece) => onMade(piece),
    onError: showError,
  });
  return (
    <Sheet label="Begin with a shape" large onClose={onClose}>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Begin with a shape</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <p className="field-help">To be decorated and finished. Its sizes are set at the bench, in mm, and stay open.</p>
        <div className="ready-shapes">
          {KINDS.map((kind) => (
            <button key={kind} type="button" className="ready-shape" disabled={begin.isPending} onClick={() => begin.mutate(kind)}>
              <ReadyMark kind={kind} />
              <span>
                <strong>{READY_SHAPES[kind].name}</strong>
                <span className="quiet d-block">{READY_SHAPES[kind].purpose}</span>
              </span>
            </button>
          ))}
        </div>
      </Modal.Body>
    </Sheet>
  );
}
