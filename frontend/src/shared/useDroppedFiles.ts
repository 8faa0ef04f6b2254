import { useEffect, useLayoutEffect, useRef, useState } from "react";

/** Files dropped anywhere on the page, or pasted; whether some are held over it. */
export function useDroppedFiles(onFiles: (files: File[]) => void): boolean {
  const [over, setOver] = useState(false);
  const receive = useRef(onFiles);
  useEffect(() => {
    receive.current = onFiles;
  }, [onFiles]);

  // Before the first paint: whoever sees the page can drop on it.
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
  return over;
}
