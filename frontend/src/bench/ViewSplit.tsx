import { type ReactNode, useRef } from "react";
import { useBench } from "./benchStore";
import { useSmall } from "./useSmall";

const SMALLEST = 0.18;

/** Two views side by side; the divider between them is dragged, or moved with the arrow keys. */
export function ViewSplit({ left, right }: { left: ReactNode; right: ReactNode }) {
  const { split: chosen, setSplit } = useBench();
  const small = useSmall();
  // In a small window the two take turns, and each has all the room.
  const split = small ? 0.5 : chosen;
  const frame = useRef<HTMLDivElement>(null);
  const place = (value: number) => setSplit(Math.min(1 - SMALLEST, Math.max(SMALLEST, value)));
  const both = split > 0 && split < 1;
  return (
    <div className="views" ref={frame}>
      {split > 0 && (
        <div className="view-left" style={{ flex: `${split} 1 0`, minWidth: 0 }}>
          {left}
        </div>
      )}
      {both && (
        <div
          className="divider"
          role="separator"
          aria-orientation="vertical"
          aria-label="Divider between the views"
          aria-valuenow={Math.round(split * 100)}
          aria-valuemin={Math.round(SMALLEST * 100)}
          aria-valuemax={Math.round((1 - SMALLEST) * 100)}
          tabIndex={0}
          onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
          onPointerMove={(event) => {
            const box = frame.current?.getBoundingClientRect();
            if (!box || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
            place((event.clientX - box.left) / box.width);
          }}
          onDoubleClick={() => setSplit(0.44)}
          onKeyDown={(event) => {
            if (event.key === "ArrowLeft") place(split - 0.03);
            if (event.key === "ArrowRight") place(split + 0.03);
          }}
        />
      )}
      {split < 1 && (
        <div className="view-right" style={{ flex: `${1 - split} 1 0`, minWidth: 0 }}>
          {right}
        </div>
      )}
    </div>
  );
}
