import { useEffect, useState } from "react";
import { Button } from "../shared/Button";
import { HistoryMenu } from "./HistoryMenu";
import { useTypings } from "../shared/typings";
import { Wordmark } from "../shared/Wordmark";
import type { SaveState } from "./keeping/PieceKeeper";
import type { OpenPiece } from "./usePiece";

interface Props {
  open: OpenPiece;
  undoes: string | null;
  redoes: string | null;
  onExport: () => void;
}

const WORDS: Record<SaveState, string> = {
  saved: "saved",
  saving: "saving",
  unsaved: "not saved yet",
  away: "not saved, trying again",
  overtaken: "changed in another window",
  gone: "taken off the shelf",
};

export function Header({ open, undoes, redoes, onExport }: Props) {
  const [name, setName] = useState(open.name);
  const refused = useTypings((state) => state.refused.length > 0);
  const typed = useTypings((state) => state.any);
  useEffect(() => setName(open.name), [open.name]);

  function finish() {
    if (name.trim() && name.trim() !== open.name) open.rename(name.trim());
    else setName(open.name);
  }

  return (
    <header className="page-head">
      <Wordmark />
      <span className="quiet head-bar" aria-hidden="true">
        |
      </span>
      <input
        className="piece-title"
        aria-label="Name of the piece"
        value={name}
        maxLength={200}
        onChange={(event) => setName(event.target.value)}
        onBlur={finish}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          const undo = event.key.toLowerCase() === "z" && (event.ctrlKey || event.metaKey);
          if (name === open.name || (event.key !== "Escape" && !undo)) return;
          event.preventDefault();
          setName(open.name);
        }}
      />
      <span className="quiet small save-state" role="status">
        {refused ? "last change not kept" : open.save === "away" && !open.pending ? "out of touch" : WORDS[open.save]}
      </span>
      <div className="ms-auto d-flex gap-2">
        <HistoryMenu open={open} />
        <Button
          variant="plain"
          disabled={!undoes && !open.pending && !typed}
          title={undoes ? `Undo: ${undoes}` : "Nothing to undo"}
          onClick={() => open.step("undo")}
        >
          Undo
        </Button>
        <Button variant="plain" disabled={!redoes} title={redoes ? `Redo: ${redoes}` : "Nothing to redo"} onClick={() => open.step("redo")}>
          Redo
        </Button>
        <Button variant="primary" onClick={onExport}>
          Export
        </Button>
      </div>
    </header>
  );
}
