import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Dropdown, Form } from "react-bootstrap";
import { useNavigate } from "react-router";
import { api, type Motif, take, takeAs } from "../api/client";
import { focusAfterwards, labelled } from "../shared/afterwards";
import { size } from "../shared/format";
import { MoreDots } from "../shared/MoreDots";
import { showError, useNotices } from "../shared/notices";
import { askAnew } from "../shared/askAnew";

/** Cleaned pictures kept for reuse; out of sight while there are none. */
export function MotifShelf({ query }: { query: string }) {
  const motifs = useQuery({
    queryKey: ["motifs", query],
    queryFn: () => takeAs<Motif[]>(api.GET("/api/motifs", { params: { query: { query } } })),
    placeholderData: (before) => before,
  });
  if (!motifs.data?.length) return null;
  return (
    <section aria-label="Motifs">
      <h2 className="mt-4 mb-2 d-flex align-items-baseline gap-2">
        Motifs
        <span className="quiet fw-normal fs-6">{motifs.data.length}, for reuse</span>
      </h2>
      <div className="motifs">
        {motifs.data.map((motif) => (
          <MotifTile key={motif.id} motif={motif} />
        ))}
      </div>
    </section>
  );
}

function MotifTile({ motif }: { motif: Motif }) {
  const [changing, setChanging] = useState(false);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const show = useNotices((state) => state.show);
  const more = labelled(`More for motif ${motif.name}`);
  const params = { params: { path: { motif_id: motif.id } } };
  const refresh = () => askAnew(queries, "motifs");
  const settled = { onSuccess: refresh, onError: showError };
  const begin = useMutation({
    mutationFn: () => take(api.POST("/api/motifs/{motif_id}/piece", params)),
    onSuccess: (piece) => {
      void askAnew(queries, "pieces");
      void navigate(`/pieces/${piece.id}`);
    },
    onError: showError,
  });
  const change = useMutation({
    mutationFn: (body: { name: string; tags: string[] }) => take(api.PATCH("/api/motifs/{motif_id}", { ...params, body })),
    ...settled,
  });
  const restore = useMutation({
    mutationFn: () => take(api.POST("/api/motifs/{motif_id}/restore", params)),
    onError: showError,
    onSuccess: async () => {
      await refresh();
      focusAfterwards(more);
    },
  });
  const remove = useMutation({
    mutationFn: () => take(api.DELETE("/api/motifs/{motif_id}", params)),
    onError: showError,
    onSuccess: async () => {
      show({
        tone: "plain",
        title: `“${motif.name}” was taken out of the motifs`,
        text: "Pieces that use it keep it.",
        action: { label: "Put it back", run: () => restore.mutate() },
      });
      await refresh();
      focusAfterwards(".motif-card .dropdown-toggle", ".drop-area button");
    },
  });
  return (
    <article className="motif-card" aria-label={motif.name}>
      <img src={`/api/pictures/${motif.picture.sha256}/view.png?longest=240`} alt="" loading="lazy" />
      {changing ? (
        <form
          className="motif-text"
          onSubmit={(event) => {
            event.preventDefault();
            const form = new FormData(event.currentTarget);
            const tags = String(form.get("tags"))
              .split(",")
              .map((tag) => tag.trim())
              .filter(Boolean);
            change.mutate({ name: String(form.get("name")), tags });
            setChanging(false);
            focusAfterwards(more);
          }}
        >
          <Form.Control size="sm" name="name" defaultValue={motif.name} aria-label="Name of the motif" autoFocus />
          <Form.Control size="sm" name="tags" className="mt-1" defaultValue={motif.tags.join(", ")} aria-label="Tags" placeholder="tags" />
          <button type="submit" className="btn btn-sm btn-plain mt-1">
            Keep
          </button>
        </form>
      ) : (
        <div className="motif-text">
          <div className="piece-name">{motif.name}</div>
          <div className="mono quiet">{size(motif.wide_mm, (motif.wide_mm / (motif.picture.cols - 1)) * (motif.picture.rows - 1))}</div>
          {motif.tags.length > 0 && <div className="quiet small">{motif.tags.join(", ")}</div>}
        </div>
      )}
      <Dropdown className="piece-menu" align="end">
        <Dropdown.Toggle variant="link" aria-label={`More for motif ${motif.name}`}>
          <MoreDots />
        </Dropdown.Toggle>
        <Dropdown.Menu>
          <Dropdown.Item onClick={() => begin.mutate()}>Make a piece from it</Dropdown.Item>
          <Dropdown.Item onClick={() => setChanging(true)}>Name and tags</Dropdown.Item>
          <Dropdown.Item onClick={() => remove.mutate()}>Delete</Dropdown.Item>
        </Dropdown.Menu>
      </Dropdown>
    </article>
  );
}
