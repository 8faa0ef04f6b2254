import { useState } from "react";
import { Dropdown, Spinner } from "react-bootstrap";
import { useQuery } from "@tanstack/react-query";
import { api, take } from "../api/client";
import { moment } from "../shared/format";
import type { OpenPiece } from "./usePiece";

/** The steps of a piece, the newest on top; choosing one goes there, back or forward. */
export function HistoryMenu({ open }: { open: OpenPiece }) {
  const [shown, setShown] = useState(false);
  const id = open.piece?.id ?? "";
  const steps = useQuery({
    queryKey: ["steps", id, open.piece?.state],
    queryFn: () => take(api.GET("/api/pieces/{piece_id}/history", { params: { path: { piece_id: id } } })),
    enabled: shown && !open.pending,
  });
  // What is typed, or still on its way, is a step as well.
  async function show(next: boolean) {
    if (next && !(await open.settle())) return;
    setShown(next);
  }
  const here = steps.data?.here ?? 0;
  function go(number: number) {
    if (number !== here) open.step(number < here ? "undo" : "redo", Math.abs(number - here));
  }
  return (
    <Dropdown align="end" show={shown} onToggle={(next) => void show(next)}>
      <Dropdown.Toggle variant="plain">Steps</Dropdown.Toggle>
      <Dropdown.Menu className="history-menu">
        {!steps.data && <Spinner role="status" size="sm" className="m-3" aria-label="Loading the steps" />}
        {steps.data?.revisions.toReversed().map(({ number, label, made }) => (
          <Dropdown.Item
            as="button"
            type="button"
            key={number}
            className={number > here ? "d-flex gap-3 undone" : "d-flex gap-3"}
            aria-current={number === here || undefined}
            onClick={() => go(number)}
          >
            <span className="me-auto">{label}</span>
            <span className="quiet small">{number === here ? "now" : number > here ? "undone" : moment(made)}</span>
          </Dropdown.Item>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
