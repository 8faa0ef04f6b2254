import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Form, Modal } from "react-bootstrap";
import type { Motif } from "../api/client";
import { Button } from "./Button";
import { showError, useNotices } from "./notices";
import { askAnew } from "./askAnew";
import { Sheet } from "./Sheet";

interface Props {
  name: string;
  /** Where it will be found. */
  waits: string;
  /** None where it could not be kept for a reason that is told already. */
  keep: (called: { name: string; tags: string[] }) => Promise<Motif | undefined>;
  onClose: () => void;
}

/** Names what is kept for other pieces. */
export function MotifSheet({ name: first, waits, keep: ask, onClose }: Props) {
  const [name, setName] = useState(first);
  const [tags, setTags] = useState("");
  const queries = useQueryClient();
  const show = useNotices((state) => state.show);
  const keep = useMutation({
    mutationFn: () =>
      ask({
        name,
        tags: tags
          .split(",")
          .map((tag) => tag.trim())
          .filter(Boolean),
      }),
    onSuccess: (motif) => {
      if (!motif) return;
      show({ tone: "plain", title: `“${motif.name}” is a motif now`, text: waits });
      void askAnew(queries, "motifs");
      onClose();
    },
    onError: showError,
  });
  return (
    <Sheet label="Keep as motif" onClose={onClose}>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Keep as motif</Modal.Title>
      </Modal.Header>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate();
        }}
      >
        <Modal.Body>
          <Form.Label htmlFor="motif-name">Name</Form.Label>
          <Form.Control id="motif-name" value={name} autoFocus onChange={(event) => setName(event.target.value)} />
          <Form.Label htmlFor="motif-tags" className="mt-3">
            Tags, with commas between
          </Form.Label>
          <Form.Control id="motif-tags" value={tags} placeholder="stars, frame" onChange={(event) => setTags(event.target.value)} />
        </Modal.Body>
        <Modal.Footer>
          <Button variant="primary" type="submit" disabled={keep.isPending || !name.trim()}>
            Keep it
          </Button>
        </Modal.Footer>
      </form>
    </Sheet>
  );
}
