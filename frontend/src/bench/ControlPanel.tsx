import { useEffect } from "react";
import { type Inner, ofArt } from "./artOf";
import { usePieceStore } from "./pieceStore";
import { stopOf } from "./stops";
import type { PanelProps } from "./stops/stop";

/** What can be set at the chosen stop. */
export function ControlPanel({ inner, ...props }: PanelProps & { inner: Inner | undefined }) {
  const stop = stopOf(
    props.recipe,
    usePieceStore((state) => state.stop),
  );
  const leave = usePieceStore((state) => state.leave);
  useEffect(() => leave, [stop.id, leave]);
  return (
    <aside className="control-panel" aria-label="Control panel">
      {stop.ofArt && !inner ? null : <stop.Panel {...props} {...ofArt(stop, inner)} />}
    </aside>
  );
}
