import { usePieceStore } from "../pieceStore";
import type { Frame } from "./frame";

/** The divider between before, on its left, and after. */
export function CompareHandle({ frame }: { frame: Frame }) {
  const { compare = 0.5, setCompare } = usePieceStore();
  const place = (share: number) => setCompare(Math.min(1, Math.max(0, share)));
  return (
    <div
      className="compare-handle"
      role="slider"
      tabIndex={0}
      aria-label="Before and after"
      aria-valuenow={Math.round(compare * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      style={{ left: frame.left + compare * frame.width, top: frame.top, height: frame.height }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => {
        if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
        const box = event.currentTarget.parentElement?.getBoundingClientRect();
        if (box) place((event.clientX - box.left - frame.left) / frame.width);
      }}
      onKeyDown={(event) => {
        if (event.key === "ArrowLeft") place(compare - 0.02);
        if (event.key === "ArrowRight") place(compare + 0.02);
      }}
    >
      <span>before</span>
      <span>after</span>
    </div>
  );
}
