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
  useEffect(() => {
    // What is typed before that belongs to the name all the same.
    let early = "";
    function hear(event: KeyboardEvent) {
      if (event.key.length !== 1 || event.ctrlKey || event.metaKey || event.altKey) return;
      early += event.key;
      event.preventDefault();
      event.stopPropagation();
    }
    const letGo = () => window.removeEventListener("keydown", hear, true);
    window.addEventListener("keydown", hear, true);
    afterwards(() => {
      letGo();
      ours.current = true;
      const field = input.current;
      if (!field) return;
      field.focus();
      if (!early) field.select();
      else {
        field.value = early.slice(0, most);
        field.setSelectionRange(early.length, early.length);
      }
    });
    return letGo;
  }, [most]);
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
