import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Modal } from "react-bootstrap";
import { useNavigate } from "react-router";
import { api, type Decoration, type Length, type Recipe, take, takeAs } from "../../../api/client";
import { Button } from "../../../shared/Button";
import { Choice } from "../../../shared/Choice";
import { LengthField } from "../../../shared/LengthField";
import { NumberField } from "../../../shared/NumberField";
import { showError } from "../../../shared/notices";
import { type Trial as TrialOnBench, usePieceStore } from "../../pieceStore";
import { askAnew } from "../../../shared/askAnew";
import { Sheet } from "../../../shared/Sheet";

type Over = "depth" | "size";

interface Props {
  step: Decoration;
  recipe: Recipe;
  name: string;
}

/** The same decoration in several depths or sizes, as a test plate of its own. */
export function Trial(props: Props) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button size="sm" variant="plain" onClick={() => setOpen(true)}>
        Strength trial
      </Button>
      {open && <TrialSheet {...props} onClose={() => setOpen(false)} />}
    </>
  );
}

function TrialSheet({ step, recipe, name, onClose }: Props & { onClose: () => void }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [over, setOver] = useState<Over>("depth");
  const [first, setFirst] = useState<Length>({ mm: 0.4, text: null });
  const [last, setLast] = useState<Length>({ mm: 2, text: null });
  const [count, setCount] = useState(5);
  const setTrial = usePieceStore((state) => state.setTrial);
  const asked = { recipe, name, decoration_id: step.id, over, first: first.mm, last: last.mm, count };
  const beside = useMutation({
    mutationFn: () => takeAs<TrialOnBench["variants"]>(api.POST("/api/decorations/variants", { body: asked })),
    onSuccess: (variants) => {
      setTrial({ decorationId: step.id, over, variants });
      onClose();
    },
    onError: showError,
  });
  const begin = useMutation({
    mutationFn: () => take(api.POST("/api/trials", { body: asked })),
    onSuccess: (piece) => {
      void askAnew(queries, "pieces");
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
    <Sheet label="Strength trial" onClose={onClose}>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Strength trial</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <p className="field-help">
          The same decoration in several strengths: beside each other on the bench, to choose from; or as a test plate with the values engraved, a piece of its
          own.
        </p>
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
        <Button variant="plain" disabled={begin.isPending} onClick={() => begin.mutate()}>
          Make the plate
        </Button>
        <Button variant="primary" disabled={beside.isPending} onClick={() => beside.mutate()}>
          See them side by side
        </Button>
      </Modal.Footer>
    </Sheet>
  );
}
