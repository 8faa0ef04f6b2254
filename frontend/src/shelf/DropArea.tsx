import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { Spinner } from "react-bootstrap";
import { Button } from "../shared/Button";

interface Props {
  busy: boolean;
  onFiles: (files: File[]) => void;
}

/** Takes pictures dropped anywhere on the page, pasted, or chosen. */
export function DropArea({ busy, onFiles }: Props) {
  const [over, setOver] = useState(false);
  const chooser = useRef<HTMLInputElement>(null);
  const receive = useRef(onFiles);
  useEffect(() => {
    receive.current = onFiles;
  }, [onFiles]);

  // Before the first paint: whoever sees the shelf can drop on it.
  useLayoutEffect(() => {
    let depth = 0;
    const holdsFiles = (event: DragEvent) => event.dataTransfer?.types.includes("Files");
    const enter = (event: DragEvent) => {
      if (!holdsFiles(event)) return;
      depth += 1;
      setOver(true);
    };
    const leave = () => {
      depth = Math.max(0, depth - 1);
      if (depth === 0) setOver(false);
    };
    const allow = (event: DragEvent) => event.preventDefault();
    const drop = (event: DragEvent) => {
      event.preventDefault();
      depth = 0;
      setOver(false);
      const files = [...(event.dataTransfer?.files ?? [])];
      if (files.length) receive.current(files);
    };
    const paste = (event: ClipboardEvent) => {
      const files = [...(event.clipboardData?.files ?? [])];
      if (files.length) receive.current(files);
    };
    window.addEventListener("dragenter", enter);
    window.addEventListener("dragleave", leave);
    window.addEventListener("dragover", allow);
    window.addEventListener("drop", drop);
    window.addEventListener("paste", paste);
    return () => {
      window.removeEventListener("dragenter", enter);
      window.removeEventListener("dragleave", leave);
      window.removeEventListener("dragover", allow);
      window.removeEventListener("drop", drop);
      window.removeEventListener("paste", paste);
    };
  }, []);

  return (
    <section className="drop-area" aria-label="Bring a picture">
      <svg width="118" height="82" viewBox="0 0 118 82" aria-hidden="true">
        <rect x="1" y="1" width="61" height="52" rx="4" fill="#fff" stroke="#DDD5C8" strokeWidth="1.5" />
        <circle cx="50" cy="14" r="5" fill="#DDD5C8" />
        <path d="M8 46 24 26l10 11 9-12 13 21Z" fill="#BDB0A0" />
        <path d="M48 80V74h11l7-11 7 7 10-17 9 21h24v6Z" fill="#D8CCBB" stroke="#2A2530" strokeWidth="1.4" strokeLinejoin="round" />
      </svg>
      <div>
        <h2 className="h1 mb-1">Bring a picture</h2>
        <div className="quiet">
          Drop it anywhere, paste it, or choose a file. PNG, JPEG, TIFF, WebP or BMP; gray or colour,
          8 or 16 bits.
        </div>
      </div>
      <input
        ref={chooser}
        type="file"
        hidden
        multiple
        accept="image/png,image/jpeg,image/tiff,image/webp,image/bmp,image/gif"
        aria-label="Picture files"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = "";
          if (files.length) onFiles(files);
        }}
      />
      <Button variant="primary" disabled={busy} onClick={() => chooser.current?.click()}>
        {busy && <Spinner size="sm" className="me-2" />}
        {busy ? "Reading" : "Choose a file"}
      </Button>
      {over && <div className="drop-veil">Let go to put it on the shelf</div>}
    </section>
  );
}
