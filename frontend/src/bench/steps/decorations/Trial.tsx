import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Modal } from "react-bootstrap";
import { useNavigate, useParams } from "react-router";
import { api, type Decoration, type Length, take } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { showError } from "../../../shared/notices";

type Over = "depth" | "size";

/** The same decoration in several depths or sizes, as a test plate of its own. */
export function Trial({ step }: { step: Decoration }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button size="sm" variant="plain" className="mt-2" onClick={() => setOpen(true)}>
        Strength trial
      </Button>
      {open && <TrialSheet step={step} onClose={() => setOpen(false)} />}
    </>
  );
}

function TrialSheet({ step, onClose }: { step: Decoration; onClose: () => void }) {
  const { pieceId = "" } = useParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [over, setOver] = useState<Over>("depth");
  const [first, setFirst] = useState<Length>({ mm: 0.4, text: null });
  const [last, setLast] = useState<Length>({ mm: 2, text: null });
  const [count, setCount] = useState(5);
  const begin = useMutation({
    mutationFn: () => take(api.POST("/api/trials", { body: { piece_id: pieceId, decoration_id: step.id, over, first: first.mm, last: last.mm, count } })),
    onSuccess: (piece) => {
      void queries.invalidateQueries({ queryKey: ["pieces"] });
      void navigate(`/pieces/${piece.id}`);
    },
    onError: showError,
  });
  const choose = (way: Over) => {
    setOver(way);
    setFirst({ mm: way === "depth" ? 0.4 : 8, text: null });
    setLast({ mm: way === "depth" ? 2 : 24, text: null });
  };
  return (
    <Modal aria-label="Strength trial" show centered onHide={onClose}>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Strength trial</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <p className="field-help">A test plate with this decoration side by side, the value engraved below each. It becomes a piece of its own.</p>
        <Choice
          label="What is tried"
          value={over}
          options={[
            ["depth", "its depth"],
            ["size", "its width"],
          ]}
          onChange={choose}
        />
        <LengthField label="From" value={first} range={[0.1, 100]} limits={[0.01, 500]} step={0.1} onChange={setFirst} />
        <LengthField label="To" value={last} range={[0.1, 100]} limits={[0.01, 500]} step={0.1} onChange={setLast} />
        <NumberField label="How many" value={count} range={[2, 12]} step={1} slider={false} onChange={(many) => setCount(Math.round(many))} />
      </Modal.Body>
      <Modal.Footer>
        <Button variant="primary" disabled={begin.isPending} onClick={() => begin.mutate()}>
          Make the plate
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
