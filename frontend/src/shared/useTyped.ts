import { type ChangeEvent, type FocusEvent, type KeyboardEvent, useEffect, useRef, useState } from "react";
import type { ErrorDetail } from "../api/client";
import { setTyping, track } from "./typings";

/** Why a text is not taken, and what would be. */
export interface TypedRefusal {
  text: string;
  /** The nearest that works, to be taken with a click. */
  nearest?: string;
}

interface Options<T> {
  label: string;
  /** The value as it is written when nothing is typed. */
  shown: string;
  /** What a text means, or why it means nothing that works. */
  read: (text: string) => Promise<T | TypedRefusal> | T | TypedRefusal;
  /** Hand a value on; a refusal that comes later is given to `refused`. */
  give: (value: T, refused: (detail: ErrorDetail) => void) => void;
  /** What the arrow keys make of a value, or of what was just typed. */
  nudge?: (typed: T | undefined, steps: number) => void;
}

const isRefusal = (value: unknown): value is TypedRefusal => typeof value === "object" && value !== null && "text" in value && !("mm" in value);

/** A detail in the words of a field, with its nearest value apart. */
export function asRefusal({ why, remedy }: ErrorDetail): TypedRefusal {
  const nearest = /[Tt]he nearest that works is (-?[\d.]+ ?(?:mm|°)?)/.exec(remedy)?.[1];
  return { text: `${why.charAt(0).toUpperCase()}${why.slice(1)}. ${remedy}.`, nearest };
}

/**
 * A field that is typed in: taken when it is left or on Enter, put back on Escape.
 *
 * What is refused stays in the field, with why; whatever comes from elsewhere never replaces
 * what is being typed.
 */
export function useTyped<T>({ label, shown, read, give, nudge }: Options<T>) {
  const [text, setText] = useState(shown);
  const [refusal, setRefusal] = useState<TypedRefusal>();
  const field = useRef({});
  const typing = useRef(false);
  /** What was typed last, being understood: a window that goes has no time to ask. */
  const ahead = useRef<{ typed: string; value: Promise<T | TypedRefusal> }>(undefined);
  /** The value that stood there when the text was refused. */
  const stood = useRef<string>(undefined);
  const newest = useRef({ text, shown });
  useEffect(() => {
    newest.current = { text, shown };
  });

  useEffect(() => {
    if (typing.current || stood.current === shown) return;
    stood.current = undefined;
    setText(shown);
    setRefusal(undefined);
    setTyping(field.current, undefined);
  }, [shown]);

  function drop() {
    typing.current = false;
    stood.current = undefined;
    setText(newest.current.shown);
    setRefusal(undefined);
    setTyping(field.current, undefined);
  }

  function refuse(typed: string, why: TypedRefusal, stoodThere: string) {
    typing.current = false;
    stood.current = stoodThere;
    setText(typed);
    setRefusal(why);
    setTyping(field.current, { label, take: () => Promise.resolve(), drop, refused: true });
  }

  /** What is typed now, understood and handed on. */
  async function take(typed = newest.current.text): Promise<T | undefined> {
    const before = newest.current.shown;
    if (typed.trim() === before) {
      drop();
      return undefined;
    }
    if (!typing.current && stood.current !== undefined && typed === newest.current.text) return undefined;
    typing.current = false;
    const early = ahead.current?.typed === typed ? await ahead.current.value.catch(() => undefined) : undefined;
    ahead.current = undefined;
    const value = early === undefined || isRefusal(early) ? await read(typed) : early;
    if (isRefusal(value)) {
      refuse(typed, value, before);
      return undefined;
    }
    stood.current = undefined;
    setRefusal(undefined);
    setTyping(field.current, undefined);
    give(value, (detail) => refuse(typed, asRefusal(detail), before));
    return value;
  }
  const takeNow = (typed?: string) => track(take(typed));
  // A field that goes while something is typed in it leaves nothing behind.
  const last = useRef(takeNow);
  useEffect(() => {
    last.current = takeNow;
  });
  useEffect(() => {
    const own = field.current;
    return () => {
      if (typing.current) void last.current();
      setTyping(own, undefined);
    };
  }, []);

  return {
    refusal,
    /** Take the nearest that works instead. */
    takeNearest: () => {
      if (!refusal?.nearest) return;
      typing.current = true;
      setText(refusal.nearest);
      void takeNow(refusal.nearest);
    },
    props: {
      value: text,
      autoComplete: "off",
      spellCheck: false,
      isInvalid: Boolean(refusal),
      onFocus: (event: FocusEvent<HTMLInputElement>) => event.target.select(),
      onChange: (event: ChangeEvent<HTMLInputElement>) => {
        typing.current = true;
        stood.current = undefined;
        setText(event.target.value);
        newest.current.text = event.target.value;
        const understood = Promise.resolve(read(event.target.value));
        understood.catch(() => undefined); // asked again when it is taken
        ahead.current = { typed: event.target.value, value: understood };
        setTyping(field.current, { label, take: takeNow, drop, refused: false });
      },
      onBlur: () => void takeNow(),
      onKeyDown: (event: KeyboardEvent) => {
        const typed = typing.current || refusal !== undefined;
        if (event.key === "Enter") void takeNow();
        // In a field the typing is what is undone first.
        const undo = event.key.toLowerCase() === "z" && (event.ctrlKey || event.metaKey) && !event.shiftKey;
        if (typed && (event.key === "Escape" || undo)) {
          event.preventDefault();
          drop();
        }
        if (!nudge || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
        event.preventDefault();
        const steps = (event.key === "ArrowUp" ? 1 : -1) * (event.shiftKey ? 10 : 1);
        if (!typing.current) nudge(undefined, steps);
        else void takeNow().then((value) => value !== undefined && nudge(value, steps));
      },
    },
  };
}
