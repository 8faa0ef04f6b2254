import { Modal } from "react-bootstrap";
import { type Figures, type Piece } from "../api/client";
import { Figure, FigureList } from "../shared/Figure";
import { count, mm } from "../shared/format";
import { SaveButton } from "../shared/SaveButton";
import { Button } from "../shared/Button";

interface Props {
  piece: Piece;
  figures: Figures | undefined;
  settle: () => Promise<boolean>;
  onClose: () => void;
}

/** Says what will be written, then writes it. */
export function ExportSheet({ piece, figures, settle, onClose }: Props) {
  const full = figures?.quality === "full" ? figures : undefined;

  return (
    <Modal aria-label="Export" show centered onHide={onClose}>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Export</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <p>Binary STL in millimetres, underside at z = 0, at full quality.</p>
        {full ? (
          <FigureList>
            <Figure name="Size">{full.mesh.size_mm.map((side) => mm(side, 3)).join(" × ")} mm</Figure>
            <Figure name="Triangles">{count(full.mesh.triangles)}</Figure>
            <Figure name="File">{mm((84 + 50 * full.mesh.triangles) / 1e6)} MB</Figure>
            <Figure name="Closed, manifold">{full.mesh.manifold ? "yes" : "no"}</Figure>
          </FigureList>
        ) : (
          <p className="quiet">Full quality is made first; its figures follow.</p>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={onClose}>
          Not now
        </Button>
        <SaveButton piece={piece} product="piece.zip" settle={settle}>
          Recipe with pictures
        </SaveButton>
        <SaveButton main piece={piece} product="piece.stl" settle={settle} onSaved={onClose}>
          Download STL
        </SaveButton>
      </Modal.Footer>
    </Modal>
  );
}
