import type { Recipe } from "../../api/client";
import { Button } from "../../shared/Button";
import type { OpenPiece } from "../usePiece";
import { isUntouched, STARTS } from ".";

/** What a piece may be set up for, until something was; one undo takes it back. */
export function StartRow({ recipe, edit }: { recipe: Recipe; edit: OpenPiece["edit"] }) {
  if (!isUntouched(recipe)) return null;
  return (
    <section className="start-row" aria-label="Begin as">
      <span>It is a relief now. Make it a</span>
      {STARTS.map(({ name, purpose, begin }) => (
        <Button key={name} size="sm" variant="plain" title={purpose} onClick={() => edit(begin, `begin as ${name}`, true)}>
          {name}
        </Button>
      ))}
    </section>
  );
}
