import { useEffect, useRef } from "react";
import { Form } from "react-bootstrap";
import { afterwards } from "./afterwards";

interface Props {
  name: string;
  label: string;
  most?: number;
  /** With what was typed, or with nothing when it was left with Esc. */
  onDone: (typed: string | undefined) => void;
}

/** A name typed in place: taken on Enter and when it is left. */
export function NameField({ name, label, most = 60, onDone }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const done = useRef(false);
  // A menu that was chosen from gives the focus back first; only then it is ours.
  const ours = useRef(false);
  useEffect(
    () =>
      afterwards(() => {
        ours.current = true;
        input.current?.select();
      }),
    [],
  );
  const finish = (typed: string | undefined) => {
    if (done.current) return;
    done.current = true;
    onDone(typed);
  };
  return (
    <Form.Control
      ref={input}
      size="sm"
      defaultValue={name}
      aria-label={label}
      maxLength={most}
      autoComplete="off"
      onKeyDown={(event) => {
        if (event.key === "Enter") finish(event.currentTarget.value.trim());
        if (event.key === "Escape") finish(undefined);
        event.stopPropagation();
      }}
      onBlur={(event) => ours.current && finish(event.target.value.trim())}
    />
  );
}
