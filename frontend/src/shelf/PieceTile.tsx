import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Dropdown } from "react-bootstrap";
import { Link, useNavigate } from "react-router";
import { api, type PieceCard, take } from "../api/client";
import { ArrivingPicture } from "../shared/ArrivingPicture";
import { day, size } from "../shared/format";
import { afterwards } from "../shared/afterwards";
import { NameField } from "../shared/NameField";
import { MoreDots } from "../shared/MoreDots";
import { showError, useNotices } from "../shared/notices";
import { askAnew } from "../shared/askAnew";

const list = () => document.querySelector(".cards");

/** The focus on a card: the one of that name, the one at that place, or the way to bring a picture. */
function focusCard(at: number, name?: string) {
  const cards = [...document.querySelectorAll<HTMLElement>(".cards .piece-card")];
  const card = cards.find((other) => other.ariaLabel === name) ?? cards[Math.min(at, cards.length - 1)];
  (card?.querySelector<HTMLElement>("a, .dropdown-toggle") ?? document.querySelector<HTMLElement>(".drop-area button"))?.focus();
}

/** One piece on the shelf. */
export function PieceTile({ piece }: { piece: PieceCard }) {
  const queries = useQueryClient();
  const [naming, setNaming] = useState(false);
  const card = useRef<HTMLElement>(null);
  const show = useNotices((state) => state.show);
  const params = { params: { path: { piece_id: piece.id } } };
  const refresh = () => askAnew(queries, "pieces");
  const settled = { onSuccess: refresh, onError: showError };

  const rename = useMutation({
    mutationFn: (name: string) => take(api.PATCH("/api/pieces/{piece_id}", { ...params, body: { name } })),
    ...settled,
  });
  const duplicate = useMutation({
    mutationFn: () => take(api.POST("/api/pieces/{piece_id}/duplicate", params)),
    ...settled,
  });
  const navigate = useNavigate();
  const asBody = useMutation({
    mutationFn: () => take(api.POST("/api/pieces/bodies", { body: { body: { kind: "piece", piece_id: piece.id, name: piece.name, recipe: null }, name: "" } })),
    onSuccess: async (made) => {
      await refresh();
      void navigate(`/pieces/${made.id}`);
    },
    onError: showError,
  });
  const restore = useMutation({
    mutationFn: () => take(api.POST("/api/pieces/{piece_id}/restore", params)),
    onError: showError,
    onSuccess: async () => {
      await refresh();
      afterwards(() => focusCard(0, piece.name));
    },
  });
  const undo = useMutation({
    mutationFn: () => take(api.POST("/api/pieces/{piece_id}/undo", params)),
    ...settled,
  });
  const remove = useMutation({
    mutationFn: () => take(api.DELETE("/api/pieces/{piece_id}", params)),
    onError: showError,
    onSuccess: async () => {
      show({
        tone: "plain",
        title: `“${piece.name}” was taken off the shelf`,
        action: { label: "Put it back", run: () => restore.mutate() },
      });
      const at = [...(list()?.children ?? [])].findIndex((other) => other === card.current);
      await refresh();
      afterwards(() => focusCard(Math.max(0, at)));
    },
  });

  function finishNaming(name: string | undefined) {
    setNaming(false);
    afterwards(() => card.current?.querySelector<HTMLElement>("a, .dropdown-toggle")?.focus());
    if (name && name !== piece.name) rename.mutate(name);
  }

  const line = (
    <div className="piece-line mono quiet">
      <span>{piece.form ? [piece.form, piece.wide_mm ? size(piece.wide_mm, piece.tall_mm) : "…"].join(", ") : "not readable"}</span>
      <span>{day(piece.changed)}</span>
    </div>
  );
  const made = piece.pending ? "" : "&made";
  const picture = piece.trouble ? (
    <p className="piece-picture piece-trouble">{piece.trouble}</p>
  ) : (
    <ArrivingPicture
      className="piece-picture"
      src={`/api/pieces/${piece.id}/thumbnail.png?r=${piece.revision}${made}`}
      alt=""
      word="its picture is being made"
      lazy
      pending={piece.pending}
    />
  );
  const opening = (
    <>
      {picture}
      <div className="piece-text">
        <div className="piece-name">{piece.name}</div>
        {line}
      </div>
    </>
  );

  return (
    <article ref={card} className="piece-card" aria-label={piece.name}>
      {naming ? (
        <>
          {picture}
          <div className="piece-text">
            <NameField name={piece.name} label="Name of the piece" most={200} onDone={finishNaming} />
            {line}
          </div>
        </>
      ) : (
        <>
          {piece.form ? (
            <Link className="piece-open" to={`/pieces/${piece.id}`}>
              {opening}
            </Link>
          ) : (
            opening
          )}
          <Dropdown className="piece-menu" align="end">
            <Dropdown.Toggle variant="link" aria-label={`More for ${piece.name}`}>
              <MoreDots />
            </Dropdown.Toggle>
            <Dropdown.Menu>
              <Dropdown.Item onClick={() => setNaming(true)}>Rename</Dropdown.Item>
              {piece.form ? (
                <>
                  <Dropdown.Item onClick={() => duplicate.mutate()}>Duplicate</Dropdown.Item>
                  <Dropdown.Item onClick={() => asBody.mutate()}>Begin another on it</Dropdown.Item>
                </>
              ) : (
                <Dropdown.Item onClick={() => undo.mutate()}>Undo its last change</Dropdown.Item>
              )}
              <Dropdown.Item onClick={() => remove.mutate()}>Delete</Dropdown.Item>
            </Dropdown.Menu>
          </Dropdown>
        </>
      )}
    </article>
  );
}
