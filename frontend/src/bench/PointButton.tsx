import { Button } from "../shared/Button";
import { useShortcuts } from "../shared/useShortcuts";

interface Props {
  name: string;
  /** What is done on the piece while it is on, as a sentence. */
  how: string;
  on: boolean;
  onChange: (on: boolean) => void;
  disabled?: boolean;
}

/** Turns pointing at the piece on and off. What is on says so, and how it ends. */
export function PointButton({ name, how, on, onChange, disabled }: Props) {
  useShortcuts({ Escape: () => on && onChange(false) });
  return (
    <div className="mb-2">
      <Button size="sm" variant={on ? undefined : "plain"} disabled={disabled} aria-pressed={on} onClick={() => onChange(!on)}>
        {name}
      </Button>
      {on && (
        <p className="field-help mb-0" role="status">
          It is on. {how} Esc, or the button again, ends it.
        </p>
      )}
    </div>
  );
}
