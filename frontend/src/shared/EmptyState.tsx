import type { ReactNode } from "react";

/** What stands where there is nothing: what is missing, and the way on. */
export function EmptyState({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="empty-state" role="status">
      <h2>{title}</h2>
      {children}
    </div>
  );
}
