import { Button } from "./Button";
import type { TypedRefusal } from "./useTyped";

/** Why what is typed in a field is not taken, and the nearest that would be. */
export function FieldRefusal({ refusal, takeNearest }: { refusal: TypedRefusal | undefined; takeNearest: () => void }) {
  if (!refusal) return null;
  return (
    <div className="field-error" role="alert">
      {refusal.text}
      {refusal.nearest && (
        <Button size="sm" variant="plain" className="d-block mt-1" onClick={takeNearest}>
          Take {refusal.nearest}
        </Button>
      )}
    </div>
  );
}
