import { type ComponentProps, useRef } from "react";
import { Button } from "./Button";

interface Props extends Omit<ComponentProps<typeof Button>, "onClick"> {
  /** What the chooser of the browser is called for those who do not see it. */
  label: string;
  accept: string;
  onFile: (file: File) => void;
}

/** A button that has a file chosen. */
export function ChooseFile({ label, accept, onFile, ...button }: Props) {
  const chooser = useRef<HTMLInputElement>(null);
  return (
    <>
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
      <Button {...button} onClick={() => chooser.current?.click()} />
    </>
  );
}
