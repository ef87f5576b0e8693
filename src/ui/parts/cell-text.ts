import { dateText } from "./words";

/** The value of a cell of a message in words, as the API gives it: never as it is written for programs. */
export function cellText(value: unknown, zone: string): string {
  if (value === null || value === undefined) return "none";
  if (Array.isArray(value)) return value.length === 0 ? "none" : value.join(", ");
  if (typeof value === "object") {
    const { due, note } = value as { due?: string | null; note?: string | null };
    return ["flagged", due && `due ${dateText(due, zone, new Date())}`, note].filter(Boolean).join(", ");
  }
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "string" && /^\d{4}-\d\d-\d\dT[\d:.]+Z$/.test(value)) return dateText(value, zone, new Date());
  return String(value);
}
