import type { ReactNode } from "react";

/** A named number. Stands inside a `FigureList`. */
export function Figure({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div>
      <dt>{name}</dt>
      <dd className="mono">{children}</dd>
    </div>
  );
}

export function FigureList({ children }: { children: ReactNode }) {
  return <dl className="figure-list">{children}</dl>;
}
