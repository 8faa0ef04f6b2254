import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useMemo, useRef, useState } from "react";
import { Form, Spinner } from "react-bootstrap";
import { Link, useNavigate } from "react-router";
import { api, bringPicture, type Piece, take, takeAs } from "../api/client";
import { EmptyState } from "../shared/EmptyState";
import { PatternSheet } from "../shared/PatternSheet";
import { showError } from "../shared/notices";
import { useShortcuts } from "../shared/useShortcuts";
import { Wordmark } from "../shared/Wordmark";
import { DropArea } from "./DropArea";
import { MotifShelf } from "./MotifShelf";
import { PieceTile } from "./PieceTile";
import { ShapeSheet } from "./ShapeSheet";
import { Button } from "../shared/Button";
import { askAnew } from "../shared/askAnew";

/** The home screen: all pieces, and the place to bring a picture to. */
export function Shelf() {
  const [query, setQuery] = useState("");
  const wanted = useDeferredValue(query.trim());
  const search = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const pieces = useQuery({
    queryKey: ["pieces", wanted],
    queryFn: () => take(api.GET("/api/pieces", { params: { query: { query: wanted } } })),
    placeholderData: (before) => before,
    // Until all cards are made: these come one after another.
    refetchInterval: (query) => (query.state.data?.some((piece) => piece.pending) ? 800 : false),
  });

  const bring = useMutation({
    mutationFn: async (files: File[]) => {
      const made = [];
      for (const file of files) {
        try {
          made.push(await bringPicture(file));
        } catch (error) {
          showError(error);
        }
      }
      return made;
    },
    onSuccess: (made, files) => {
      void askAnew(queries, "pieces");
      if (made.length === 1 && files.length === 1) void navigate(`/pieces/${made[0].id}`);
    },
  });

  const [sheet, setSheet] = useState<"shape" | "pattern">();
  function open(piece: Piece) {
    void askAnew(queries, "pieces");
    void navigate(`/pieces/${piece.id}`);
  }

  useShortcuts(useMemo(() => ({ "/": () => search.current?.focus() }), []));

  return (
    <div className="shelf">
      <header className="page-head px-4">
        <Wordmark />
        <Form.Control
          ref={search}
          type="search"
          className="shelf-search"
          placeholder="Find a piece"
          aria-label="Find a piece"
          value={query}
          onChange={(event) => setQuery(event.target.value)}
        />
        <Link to="/makers" className="btn btn-plain ms-auto">
          Model makers
        </Link>
        <Link to="/workshop" className="btn btn-plain">
          Workshop
        </Link>
      </header>
      <main className="shelf-body">
        <DropArea onFiles={(files) => bring.mutate(files)} busy={bring.isPending} />
        <div className="d-flex gap-2 mt-3 align-items-center">
          <span className="quiet">or without a file:</span>
          <Button variant="plain" size="sm" onClick={() => setSheet("shape")}>
            Begin with a shape
          </Button>
          <Button variant="plain" size="sm" onClick={() => setSheet("pattern")}>
            Make a picture
          </Button>
        </div>
        {sheet === "shape" && <ShapeSheet onMade={open} onClose={() => setSheet(undefined)} />}
        {sheet === "pattern" && (
          <PatternSheet
            action="Begin a piece with it"
            make={async (kind, body) => open(await takeAs<Piece>(api.POST("/api/patterns/{kind}/piece", { params: { path: { kind } }, body })))}
            onClose={() => setSheet(undefined)}
          />
        )}
        <h1 className="h2 mt-4 mb-2 d-flex align-items-baseline gap-2">
          Pieces
          {pieces.data && <span className="quiet fw-normal fs-6">{pieces.data.length}, newest first</span>}
        </h1>
        {pieces.isPending && <Spinner role="status" aria-label="Loading the shelf" />}
        {pieces.isError && (
          <EmptyState title="The shelf cannot be read">
            <p>The server does not answer. What was saved is safe.</p>
            <Button variant="plain" onClick={() => void pieces.refetch()}>
              Try again
            </Button>
          </EmptyState>
        )}
        {pieces.data?.length === 0 &&
          (wanted ? (
            <EmptyState title={`No piece is called “${wanted}”`}>
              <Button variant="plain" onClick={() => setQuery("")}>
                Show all
              </Button>
            </EmptyState>
          ) : (
            <EmptyState title="The shelf is empty">
              <p>
                Bring a grayscale picture and it becomes a relief in millimetres, a drawing and it becomes a solid in its true size, or a mesh to finish it.
              </p>
            </EmptyState>
          ))}
        <div className="cards">
          {pieces.data?.map((piece) => (
            <PieceTile key={piece.id} piece={piece} />
          ))}
        </div>
        <MotifShelf query={wanted} />
      </main>
    </div>
  );
}
