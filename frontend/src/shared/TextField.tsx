import { type ChangeEvent, useEffect, useId, useRef, useState } from "react";
import { Form } from "react-bootstrap";
import { handOn } from "./handOn";

type FieldElement = HTMLInputElement | HTMLTextAreaElement;

interface Props {
  label: string;
  value: string;
  /** How many lines are seen at once. */
  rows?: number;
  maxLength: number;
  /** `resting` is false while it is being typed. */
  onChange: (value: string, resting: boolean) => void;
}

/** Words of the piece: followed while they are typed, one step from the first letter to the last. */
export function TextField({ label, value, rows = 1, maxLength, onChange }: Props) {
  const id = useId();
  const [text, setText] = useState(value);
  const [refused, setRefused] = useState<string>();
  // One typing lasts from the focus until it is left.
  const typing = useRef<object>(undefined);
  const written = useRef(value);
  useEffect(() => {
    // Comes from elsewhere: an undo, another window.
    if (value !== written.current) setText(value);
    written.current = value;
  }, [value]);
  const give = (next: string) => {
    setText(next);
    setRefused(undefined);
    written.current = next;
    typing.current ??= {};
    const along = { typing: typing.current, refused: ({ why }: { why: string }) => setRefused(why) };
    handOn(along, () => onChange(next, false));
  };
  const props = {
    id,
    maxLength,
    value: text,
    onChange: (event: ChangeEvent<FieldElement>) => give(event.target.value),
    onBlur: () => {
      typing.current = undefined;
    },
  };
  return (
    <div className={rows > 1 ? "field" : "field field-row"}>
      <label htmlFor={id}>{label}</label>
      {rows > 1 ? <Form.Control as="textarea" rows={rows} {...props} /> : <Form.Control className="w-50" {...props} />}
      {refused && (
        <div className="field-error" role="alert">
          {refused}.
        </div>
      )}
    </div>
  );
}
