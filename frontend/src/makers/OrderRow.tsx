import { ProgressBar } from "react-bootstrap";
import { api, type Order, take } from "../api/client";
import { Button } from "../shared/Button";
import { sentence } from "../shared/notices";
import { moment } from "../shared/format";

interface Props {
  order: Order;
  open: boolean;
  act: (what: () => Promise<unknown>) => void;
  begin: () => void;
}

/** How an order stands, in plain words. */
export function told({ state, cancelled, place, share, tries, paid }: Order): string {
  if (cancelled && state !== "cancelled") return "being given up";
  switch (state) {
    case "sending":
      return tries ? `being sent, try ${tries + 1}` : "being sent";
    case "queued":
      return place ? `in the queue, place ${place}` : "in the queue";
    case "working":
      return share == null ? "being made" : `being made, ${Math.round(share * 100)} %`;
    case "fetching":
      return "being fetched";
    case "done":
      return "done";
    case "failed":
      return "failed";
    case "cancelled":
      return paid ? `given up, ${paid} credits were spent` : "given up, nothing was paid";
  }
}

const TONES: Partial<Record<Order["state"], string>> = { failed: "state-wrong", done: "state-good" };

/** One order: what was sent, how it stands, and what can be done with it. */
export function OrderRow({ order, open, act, begin }: Props) {
  const { id, filename, state, said, remedy, paid } = order;
  const path = { params: { path: { order_id: id } } };
  return (
    <li className="order" aria-label={filename}>
      <img src={`/api/orders/${id}/picture`} alt="" loading="lazy" />
      <div className="order-text">
        <strong>{filename}</strong>
        <span className={TONES[state] ?? "quiet"} role="status">
          {told(order)}
        </span>
        {said && (
          <span className="quiet">
            {sentence(said)}. {remedy}.
          </span>
        )}
        {open && <ProgressBar now={(order.share ?? 0) * 100} aria-label={`${filename}: ${told(order)}`} />}
      </div>
      <span className="mono quiet">
        {moment(order.created)}
        {paid != null && (paid ? `, ${paid} credits` : ", nothing paid")}
      </span>
      <div className="d-flex gap-2">
        {open && (
          <Button
            size="sm"
            variant="plain"
            disabled={order.cancelled}
            aria-label={`Cancel: ${filename}`}
            onClick={() => act(() => take(api.POST("/api/orders/{order_id}/cancel", path)))}
          >
            Cancel
          </Button>
        )}
        {(state === "failed" || state === "cancelled") && (
          <Button size="sm" aria-label={`Try again: ${filename}`} onClick={() => act(() => take(api.POST("/api/orders/{order_id}/again", path)))}>
            Try again
          </Button>
        )}
        {state === "done" && (
          <Button size="sm" aria-label={`Begin a piece with it: ${filename}`} onClick={begin}>
            Begin a piece with it
          </Button>
        )}
        {!open && (
          <Button size="sm" variant="plain" aria-label={`Remove: ${filename}`} onClick={() => act(() => take(api.DELETE("/api/orders/{order_id}", path)))}>
            Remove
          </Button>
        )}
      </div>
    </li>
  );
}
