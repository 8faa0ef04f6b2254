import type { ErrorDetail } from "../api/client";
import { Button } from "../shared/Button";
import { named, sentence } from "../shared/notices";
import { askAgain, useOlds } from "../shared/old";
import { passing } from "../shared/passing";
import type { OpenPiece } from "./usePiece";

const listed = (words: string[]) => (words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} and ${words.at(-1)}`);

function Before({ what }: { what: string[] }) {
  return (
    <span className="quiet">
      {" "}
      Shown as {what.length > 1 ? "they were" : "it was"} before: {listed(what)}.
    </span>
  );
}

/** The one place that says what is not as it should be, why, and what can be done. */
export function Banner({ open }: { open: OpenPiece }) {
  const olds = useOlds((state) => state.list);
  const reasons = new Map<string, { why: ErrorDetail; what: string[] }>();
  for (const { what, why } of olds) {
    const key = JSON.stringify(why);
    const known = reasons.get(key);
    if (known && !known.what.includes(what)) known.what.push(what);
    if (!known) reasons.set(key, { why, what: [what] });
  }
  const { save, trouble, pending } = open;
  // That the server is away is said once, with all that is old because of it.
  const also = trouble && reasons.get(JSON.stringify(trouble));
  if (also) reasons.delete(JSON.stringify(trouble));
  if (save !== "overtaken" && save !== "gone" && !trouble && reasons.size === 0) return null;
  return (
    <div className="banner" role="alert">
      {save === "overtaken" && (
        <div className="banner-line">
          <span>
            <strong>Changed in another window.</strong> Your last change is not saved yet; neither is lost.
          </span>
          <Button size="sm" variant="plain" onClick={open.takeTheirs}>
            Take theirs
          </Button>
          <Button size="sm" variant="plain" onClick={open.keepMine}>
            Keep mine as a new step
          </Button>
        </div>
      )}
      {save === "gone" && (
        <div className="banner-line">
          <span>
            <strong>Taken off the shelf in another window.</strong> What is shown here is not saved any more.
          </span>
          <Button size="sm" variant="plain" onClick={open.putBack}>
            Put it back
          </Button>
        </div>
      )}
      {trouble && (
        <div className="banner-line">
          <span>
            <strong>{pending ? "Not saved yet." : "Out of touch."}</strong> {sentence(trouble.why)}.{" "}
            {pending ? "Your change is kept in this window and tried again by itself." : `${trouble.remedy}.`}
            {also && <Before what={also.what} />}
          </span>
          <Button size="sm" variant="plain" onClick={open.again}>
            Try again
          </Button>
        </div>
      )}
      {[...reasons.values()].map(({ why, what }) => (
        <div className="banner-line" key={JSON.stringify(why)}>
          <span>
            <strong>{named(why.what)}</strong>: {why.why}. {why.remedy}.
            <Before what={what} />
          </span>
          {passing(why) && (
            <Button size="sm" variant="plain" onClick={askAgain}>
              Try again
            </Button>
          )}
        </div>
      ))}
    </div>
  );
}
