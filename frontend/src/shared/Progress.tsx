interface Props {
  label: string;
  /** Percent; left out while nobody knows. */
  now?: number;
  className?: string;
}

/** How far something is. */
export function Progress({ label, now, className = "" }: Props) {
  return (
    <div
      className={`progress ${className}`}
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={now === undefined ? undefined : Math.round(now)}
    >
      <div className={now === undefined ? "progress-bar progress-bar-striped progress-bar-animated" : "progress-bar"} style={{ width: `${now ?? 100}%` }} />
    </div>
  );
}
