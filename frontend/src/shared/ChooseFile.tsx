import { type ComponentProps, type ReactNode, useRef } from "react";
import { Button } from "./Button";

interface Chosen {
  /** What the chooser of the browser is called for those who do not see it. */
  label: string;
  accept: string;
  onFile: (file: File) => void;
}

/** What has a file chosen, to be put on the page, and how it is opened. */
export function useChooser({ label, accept, onFile }: Chosen): [ReactNode, () => void] {
  const chooser = useRef<HTMLInputElement>(null);
  const input = (
    <input
      ref={chooser}
      type="file"
      hidden
      accept={accept}
      aria-label={label}
      onChange={(event) => {
        const file = event.target.files?.[0];
        event.target.value = "";
        if (file) onFile(file);
      }}
    />
  );
  return [input, () => chooser.current?.click()];
}

/** A button that has a file chosen. */
export function ChooseFile({ label, accept, onFile, ...button }: Chosen & Omit<ComponentProps<typeof Button>, "onClick">) {
  const [input, open] = useChooser({ label, accept, onFile });
  return (
    <>
      {input}
      <Button {...button} onClick={open} />
    </>
  );
}
