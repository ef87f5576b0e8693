import ICAL from "ical.js";
import type { Steps } from "./steps";

/** Writing iCalendar (RFC 5545): lines are folded and texts escaped by a library. */

export type Value = string | number | ICAL.Time | ICAL.Duration;
export interface Line {
  readonly name: string;
  readonly value: Value;
  readonly type?: string;
  readonly parameters?: Readonly<Record<string, string>>;
}

/** What is written as it stands: a recurrence rule, an offset. */
const RAW = new Set(["recur", "utc-offset"]);

function component(name: string, lines: readonly Line[]): ICAL.Component {
  const made = new ICAL.Component(name);
  for (const { name: of, value, type, parameters = {} } of lines) {
    const property = new ICAL.Property(of.toLowerCase());
    for (const [key, text] of Object.entries(parameters)) property.setParameter(key.toLowerCase(), text);
    if (type) property.resetType(type);
    if (type && RAW.has(type)) property.setValue(rawValue(type, String(value)));
    else property.setValue(value);
    made.addProperty(property);
  }
  return made;
}

const rawValue = (type: string, text: string) =>
  type === "recur" ? ICAL.Recur.fromString(text) : ICAL.UtcOffset.fromString(text);

/** A tree of components, as it is to be printed. */
export interface Tree {
  readonly name: string;
  readonly lines: readonly Line[];
  readonly parts?: readonly Tree[];
}

function built({ name, lines, parts = [] }: Tree): ICAL.Component {
  const made = component(name, lines);
  for (const part of parts) made.addSubcomponent(built(part));
  return made;
}

/** So many parts are printed in a step. */
const PARTS = 20;

/**
 * Prints a tree, the parts of it one by one: built all at once they would take a hundred times the room of their text.
 * Lines end with CRLF, the last one too.
 */
export function* printCalendar({ name, lines }: Omit<Tree, "parts">, parts: Iterable<Tree>): Steps<string> {
  const end = `END:${name.toUpperCase()}`;
  const printed = [component(name, lines).toString().slice(0, -end.length)];
  let count = 0;
  for (const part of parts) {
    printed.push(built(part).toString(), "\r\n");
    if (++count % PARTS === 0) yield;
  }
  printed.push(end, "\r\n");
  return printed.join("");
}

/** A time by its clock's numbers, ms as if in Greenwich. */
export function timeOf(wall: number, { isDay = false, isUtc = false } = {}): ICAL.Time {
  const at = new Date(wall);
  return new ICAL.Time(
    {
      year: at.getUTCFullYear(),
      month: at.getUTCMonth() + 1,
      day: at.getUTCDate(),
      hour: isDay ? 0 : at.getUTCHours(),
      minute: isDay ? 0 : at.getUTCMinutes(),
      second: isDay ? 0 : at.getUTCSeconds(),
      isDate: isDay,
    },
    isUtc ? ICAL.Timezone.utcTimezone : ICAL.Timezone.localTimezone,
  );
}

export const durationOf = (seconds: number): ICAL.Duration => ICAL.Duration.fromSeconds(seconds);
