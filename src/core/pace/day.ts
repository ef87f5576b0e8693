import type { Day } from "./backlog";

const DAY_MS = 86_400_000;

/** A day as ISO 8601 has it, "2026-11-28". */
export const dayText = (day: Day): string => new Date(day * DAY_MS).toISOString().slice(0, 10);

/** The day of such a text; null for one that is none. */
export function readDay(text: string): Day | null {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) return null;
  const ms = Date.parse(`${text}T00:00:00Z`);
  return Number.isNaN(ms) || dayText(ms / DAY_MS) !== text ? null : ms / DAY_MS;
}
