import { Button } from "../../../shared/Button";
import { LengthField } from "../../../shared/LengthField";
import { usePieceStore } from "../../pieceStore";

/** The tools of a step, to be chosen. */
export function Tools({ options }: { options: [string, string][] }) {
  const { tool, setTool } = usePieceStore();
  return (
    <div className="field tool-row" role="group" aria-label="Tool">
      {options.map(([name, words]) => (
        <button key={name} type="button" className="chip" aria-pressed={tool === name} onClick={() => setTool(tool === name ? "none" : name)}>
          {words}
        </button>
      ))}
    </div>
  );
}

/** How wide the next stroke is. */
export function BrushWidth() {
  const { brush, setBrush } = usePieceStore();
  return (
    <LengthField
      label="Brush width"
      value={{ mm: brush }}
      range={[0.2, 40]}
      limits={[0.1, 200]}
      step={0.2}
      slider
      help="Comma and full stop make it smaller and larger. Shift draws straight lines."
      onChange={(value) => setBrush(Math.min(200, Math.max(0.1, value.mm)))}
    />
  );
}

/** How many there are, and the last one away. */
export function Strokes({ count, undo }: { count: number; undo: () => void }) {
  return count === 0 ? null : (
    <div className="field field-row">
      <span className="field-help">
        {count} stroke{count === 1 ? "" : "s"}
      </span>
      <Button size="sm" variant="plain" onClick={undo}>
        Take the last away
      </Button>
    </div>
  );
}
