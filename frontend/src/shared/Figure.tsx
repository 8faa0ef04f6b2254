import { createContext, type ReactNode, useContext } from "react";

/** Said of figures that are of the recipe before; undefined where they are of this one. */
export const AsBefore = createContext<string | undefined>(undefined);

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
  const asBefore = useContext(AsBefore);
  return (
    <div className={asBefore && "as-before"}>
      {asBefore && <p className="figures-word">{asBefore}</p>}
      <dl className="figure-list">{children}</dl>
    </div>
  );
}
