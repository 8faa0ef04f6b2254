import { useState } from "react";

interface Props {
  src: string;
  alt: string;
  className: string;
  /** What is said until it is there. */
  word: string;
  lazy?: boolean;
  /** What there is by now stands in for it. */
  pending?: boolean;
}

/** A picture that takes a while: until it is there, the one before is dimmed, and a word says so. */
export function ArrivingPicture({ src, alt, className, word, lazy = false, pending = false }: Props) {
  const [here, setHere] = useState("");
  const waits = here !== src || pending;
  const arrived = () => setHere(src);
  return (
    <span className={waits ? "arriving waits" : "arriving"} aria-busy={waits}>
      <img className={className} src={src} alt={waits ? "" : alt} loading={lazy ? "lazy" : undefined} onLoad={arrived} onError={arrived} />
      {waits && <span className="arriving-word">{word}</span>}
    </span>
  );
}
