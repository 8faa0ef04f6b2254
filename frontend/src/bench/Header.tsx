import { useEffect, useState } from "react";
import type { Piece } from "../api/client";
import { Wordmark } from "../shared/Wordmark";
import type { OpenPiece } from "./usePiece";
import { Button } from "../shared/Button";

interface Props {
  open: OpenPiece;
  piece: Piece;
  onExport: () => void;
}

const WORDS = { saved: "saved", saving: "saving", unsaved: "not saved yet" };

export function Header({ open, piece, onExport }: Props) {
  const [name, setName] = useState(piece.name);
  useEffect(() => setName(piece.name), [piece.name]);

  function finish() {
    if (name.trim() && name.trim() !== piece.name) open.rename(name);
    else setName(piece.name);
  }

  return (
    <header className="page-head">
      <Wordmark />
      <span className="quiet" aria-hidden="true">
        |
      </span>
      <input
        className="piece-title"
        aria-label="Name of the piece"
        value={name}
        onChange={(event) => setName(event.target.value)}
        onBlur={finish}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") setName(piece.name);
        }}
      />
      <span className="quiet small" role="status">
        {open.problem ? "last change not kept" : WORDS[open.saveState]}
      </span>
      <div className="ms-auto d-flex gap-2">
        <Button
          variant="plain"
          disabled={!piece.undo && open.saveState === "saved"}
          title={piece.undo ? `Undo: ${piece.undo}` : "Nothing to undo"}
          onClick={() => open.step("undo")}
        >
          Undo
        </Button>
        <Button
          variant="plain"
          disabled={!piece.redo}
          title={piece.redo ? `Redo: ${piece.redo}` : "Nothing to redo"}
          onClick={() => open.step("redo")}
        >
          Redo
        </Button>
        <Button variant="primary" onClick={onExport}>
          Export
        </Button>
      </div>
    </header>
  );
}
