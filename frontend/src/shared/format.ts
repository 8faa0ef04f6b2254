/** Numbers as the screens write them. */

const grouped = new Intl.NumberFormat("en", { maximumFractionDigits: 0 });

export const count = (value: number) => grouped.format(value).replaceAll(",", "\u2009");

/** Millimetres, at most two decimals and none that say nothing. */
export const mm = (value: number, decimals = 2) => String(Number(value.toFixed(decimals)));

export const size = (wide: number, tall: number) => `${mm(wide, 1)} × ${mm(tall, 1)} mm`;

export function day(when: string): string {
  const date = new Date(when);
  const today = new Date();
  const midnight = (d: Date) => new Date(d.getFullYear(), d.getMonth(), d.getDate()).getTime();
  const days = Math.round((midnight(today) - midnight(date)) / 86_400_000);
  if (days <= 0) return "today";
  if (days === 1) return "yesterday";
  if (days < 7) return date.toLocaleDateString("en-GB", { weekday: "long" });
  const sameYear = date.getFullYear() === today.getFullYear();
  return date.toLocaleDateString("en-GB", {
    day: "numeric",
    month: "short",
    year: sameYear ? undefined : "numeric",
  });
}

/** The time of day, and the day where it is another. */
export function moment(when: string): string {
  const time = new Date(when).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  const named = day(when);
  return named === "today" ? time : `${named}, ${time}`;
}
