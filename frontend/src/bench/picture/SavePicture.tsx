import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Form, Modal } from "react-bootstrap";
import { api, type Piece, take } from "../../api/client";
import { Button } from "../../shared/Button";
import { SaveButton } from "../../shared/SaveButton";
import { showError, useNotices } from "../../shared/notices";

interface Props {
  piece: Piece;
  settle: () => Promise<boolean>;
}

/** The corrected picture as a file, or as a motif for other pieces. */
export function SavePicture({ piece, settle }: Props) {
  const [naming, setNaming] = useState(false);
  return (
    <div className="d-flex gap-2 mt-3">
      <SaveButton size="sm" piece={piece} product="picture.png" settle={settle}>
        Save as 16-bit PNG
      </SaveButton>
      <Button size="sm" variant="plain" onClick={() => setNaming(true)}>
        Keep as motif
      </Button>
      {naming && <MotifSheet piece={piece} settle={settle} onClose={() => setNaming(false)} />}
    </div>
  );
}

function MotifSheet({ piece, settle, onClose }: Props & { onClose: () => void }) {
  const [name, setName] = useState(piece.name);
  const [tags, setTags] = useState("");
  const queries = useQueryClient();
  const show = useNotices((state) => state.show);
  const keep = useMutation({
    mutationFn: async () => {
      if (!(await settle())) return undefined;
      const words = tags.split(",").map((tag) => tag.trim()).filter(Boolean);
      return take(api.POST("/api/motifs", { body: { piece_id: piece.id, name, tags: words } }));
    },
    onSuccess: (motif) => {
      if (!motif) return;
      show({ tone: "plain", title: `“${motif.name}” is a motif now`, text: "It waits on the shelf and under Second picture." });
      void queries.invalidateQueries({ queryKey: ["motifs"] });
      onClose();
    },
    onError: showError,
  });
  return (
    <Modal aria-label="Keep as motif" show onHide={onClose} centered>
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
    </Modal>
  );
}
