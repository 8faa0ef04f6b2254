import { useId, useState } from "react";
import { Form } from "react-bootstrap";
import { detailOf, type ErrorDetail } from "../api/client";
import { focusAfterwards, labelled } from "../shared/afterwards";
import { Button } from "../shared/Button";
import { sentence } from "../shared/notices";

export interface FieldOf<T> {
  key: keyof T & string;
  label: string;
  unit: string;
}

interface Props<T extends { id: string; name: string }> {
  thing: T;
  fields: FieldOf<T>[];
  kind: string;
  /** Its main numbers in words. */
  figure: string;
  opened?: boolean;
  keep: (thing: T) => Promise<unknown>;
  remove?: () => void;
  /** Something more that can be done with it. */
  action?: { label: string; run: () => void };
  /** A new one was kept or given up. */
  done?: () => void;
}

/** A field as a refusal calls it: without its unit. */
const wordsOf = (key: string) => key.replace(/(_per)?_(mm|kg|g_cm3)$/, "").replaceAll("_", " ");

function Refused({ problem }: { problem: ErrorDetail | undefined }) {
  if (!problem) return null;
  return (
    <div className="field-error w-100" role="alert">
      {sentence(problem.why)}. {problem.remedy}.
    </div>
  );
}

/** One thing of the workshop: its figures, and a form to change them. */
export function ThingCard<T extends { id: string; name: string; colour?: string }>({
  thing,
  fields,
  kind,
  figure,
  opened = false,
  keep,
  remove,
  action,
  done,
}: Props<T>) {
  const [editing, setEditing] = useState(opened);
  const [problem, setProblem] = useState<ErrorDetail>();
  const refused = fields.find(({ key }) => problem?.what === wordsOf(key));
  const id = useId();
  const close = () => {
    setEditing(false);
    done?.();
    focusAfterwards(labelled(`Change ${thing.name}`), `[data-add="${kind}"]`);
  };

  async function submit(form: FormData) {
    const next = { ...thing, name: String(form.get("name")) };
    if (thing.colour !== undefined) next.colour = String(form.get("colour"));
    for (const { key } of fields) (next as Record<string, unknown>)[key] = Number(String(form.get(key)).replace(",", "."));
    try {
      setProblem(undefined);
      await keep(next);
      close();
    } catch (error) {
      setProblem(detailOf(error)); // the fields stay as they were typed
    }
  }

  if (!editing)
    return (
      <article className="thing" aria-label={thing.name}>
        {thing.colour && <span className="thing-colour" style={{ background: thing.colour }} aria-hidden="true" />}
        <div className="thing-text">
          <strong>{thing.name}</strong>
          <span className="mono quiet">{figure}</span>
        </div>
        <dl className="thing-figures">
          {fields.map(({ key, label, unit }) => (
            <div key={key}>
              <dt>{label}</dt>
              <dd className="mono">
                {String(thing[key])} {unit}
              </dd>
            </div>
          ))}
        </dl>
        <div className="d-flex gap-2">
          <Button size="sm" variant="plain" aria-label={`Change ${thing.name}`} onClick={() => setEditing(true)}>
            Change
          </Button>
          {action && (
            <Button size="sm" variant="plain" aria-label={`${action.label}: ${thing.name}`} onClick={action.run}>
              {action.label}
            </Button>
          )}
          {remove && (
            <Button size="sm" variant="plain" aria-label={`Take out ${thing.name}`} onClick={remove}>
              Take out
            </Button>
          )}
        </div>
      </article>
    );
  return (
    <form
      className="thing"
      aria-label={opened ? `New ${kind}` : thing.name}
      onSubmit={(event) => {
        event.preventDefault();
        void submit(new FormData(event.currentTarget));
      }}
      onKeyDown={(event) => event.key === "Escape" && close()}
    >
      <div className="field">
        <label htmlFor={`${id}-name`}>Name</label>
        <Form.Control id={`${id}-name`} name="name" defaultValue={thing.name} maxLength={80} required autoFocus onFocus={(event) => event.target.select()} />
      </div>
      {thing.colour !== undefined && (
        <div className="field field-row">
          <label htmlFor={`${id}-colour`}>Colour</label>
          <Form.Control id={`${id}-colour`} name="colour" type="color" defaultValue={thing.colour} />
        </div>
      )}
      {fields.map(({ key, label, unit }) => (
        <div key={key} className="field field-row flex-wrap">
          <label htmlFor={`${id}-${key}`}>{label}</label>
          <div className="number-input">
            <Form.Control
              id={`${id}-${key}`}
              name={key}
              className="mono"
              inputMode="decimal"
              pattern="[0-9]*[.,]?[0-9]+"
              title="A number"
              required
              defaultValue={String(thing[key])}
            />
            <span className="quiet">{unit}</span>
          </div>
          {refused?.key === key && <Refused problem={problem} />}
        </div>
      ))}
      {!refused && <Refused problem={problem} />}
      <div className="d-flex gap-2">
        <Button size="sm" type="submit">
          Keep
        </Button>
        <Button size="sm" variant="plain" onClick={close}>
          Not now
        </Button>
      </div>
    </form>
  );
}
