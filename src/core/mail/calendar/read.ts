import ICAL from "ical.js";
import type { Steps } from "./steps";

/**
 * Reading iCalendar (RFC 5545) line by line, so that what is broken is left out with its line and the rest comes in.
 * The lines' structure is read here; what a line says is read by a library.
 */

export interface Problem {
  /** From 1. */
  readonly line: number;
  readonly text: string;
}

export interface Property {
  readonly line: number;
  /** In capitals. */
  readonly name: string;
  readonly read: ICAL.Property;
  /** What stands behind the colon. */
  readonly raw: string;
}

export interface Component {
  readonly line: number;
  /** In capitals: VEVENT, say. */
  readonly name: string;
  readonly properties: Property[];
  readonly parts: Component[];
}

/** Lines longer than this are nobody's calendar. */
const LONGEST_LINE = 200_000;
const MOST_COMPONENTS = 100_000;
const DEEPEST = 8;
/** What holds so much that cannot be read is no calendar. */
const MOST_PROBLEMS = 50_000;

interface Line {
  readonly line: number;
  readonly text: string;
}

/** Lines with their continuations joined, one after another. */
function* unfolded(source: string, problems: Problem[]): Generator<Line> {
  let at = 0;
  let number = 0;
  let line = 0;
  let pieces: string[] = [];
  let size = 0;
  const joined = (): Line | null => {
    const text = pieces.join("");
    pieces = [];
    if (size <= LONGEST_LINE) return text === "" ? null : { line, text };
    problems.push({ line, text: `the line has ${size} characters and is left out` });
    return null;
  };
  while (at < source.length) {
    let end = source.indexOf("\n", at);
    if (end < 0) end = source.length;
    const text = source.slice(at, source[end - 1] === "\r" ? end - 1 : end);
    at = end + 1;
    number++;
    if (pieces.length > 0 && (text.startsWith(" ") || text.startsWith("\t"))) {
      size += text.length - 1;
      if (size <= LONGEST_LINE) pieces.push(text.slice(1));
      continue;
    }
    const before = joined();
    if (before) yield before;
    [line, size] = [number, text.length];
    // Written by nothing that begins a line: what follows belongs to it all the same.
    pieces = [text];
  }
  const last = joined();
  if (last) yield last;
}

/** Where the value begins: the first colon that is not in quotes. */
function colonOf(text: string): number {
  let quoted = false;
  for (let i = 0; i < text.length; i++) {
    if (text[i] === '"') quoted = !quoted;
    else if (text[i] === ":" && !quoted) return i;
  }
  return -1;
}

/** What any line begins with: the rest is asked of the library only then, which is slow to refuse. */
const NAME = /^[A-Za-z0-9-]+\s*[;:]/;

function propertyOf({ line, text }: Line): Property | string {
  if (!NAME.test(text)) return "it has no name and value";
  const colon = colonOf(text);
  if (colon < 0) return "it has no value";
  try {
    const read = ICAL.Property.fromString(text);
    // Some values are only read when they are asked for.
    read.getValues();
    return { line, name: read.name.toUpperCase(), read, raw: text.slice(colon + 1).trim() };
  } catch (error) {
    return `it cannot be read (${error instanceof Error ? error.message.slice(0, 120) : "unknown"})`;
  }
}

const OUTER = "VCALENDAR";
/** What cannot be in one another: where one begins in another, the other's end is missing. */
const WHOLE = new Set(["VEVENT", "VTODO", "VTIMEZONE", "VJOURNAL", "VFREEBUSY"]);

interface ReadCalendar {
  readonly components: readonly Component[];
  readonly method: string | null;
  readonly problems: readonly Problem[];
}

/** So many lines are read in a step. */
const LINES = 200;

/**
 * Reads calendars: all their events, to-dos and zones, wherever they stand.
 * @returns what stands in them, with what of it could not be read
 */
export function* readCalendar(source: string): Steps<ReadCalendar> {
  const problems: Problem[] = [];
  const components: Component[] = [];
  const open: Component[] = [];
  let method: string | null = null;
  let isCalendar = false;
  const finish = (component: Component) => {
    const outer = open.at(-1);
    if (outer && outer.name !== OUTER) outer.parts.push(component);
    else if (component.name !== OUTER) components.push(component);
  };
  let count = 0;
  for (const one of unfolded(source.replace(/^\uFEFF/, ""), problems)) {
    if (++count % LINES === 0) yield;
    if (problems.length >= MOST_PROBLEMS) {
      problems.push({ line: one.line, text: "too much cannot be read: what follows is left out" });
      break;
    }
    const [, word, name = ""] = /^(BEGIN|END)\s*:\s*([\w-]+)\s*$/i.exec(one.text) ?? [];
    const kind = name.toUpperCase();
    if (word?.toUpperCase() === "BEGIN") {
      isCalendar ||= kind === OUTER;
      if (WHOLE.has(kind))
        while (open.length > 0 && open.at(-1)!.name !== OUTER) {
          const left = open.pop()!;
          problems.push({ line: left.line, text: `${left.name} has no end: read up to line ${one.line}` });
          finish(left);
        }
      if (components.length >= MOST_COMPONENTS) {
        problems.push({ line: one.line, text: `the calendar goes on behind ${MOST_COMPONENTS} entries: left out` });
        break;
      }
      if (open.length < DEEPEST) open.push({ line: one.line, name: kind, properties: [], parts: [] });
      else problems.push({ line: one.line, text: `${kind} is nested too deep` });
    } else if (word) {
      const at = open.map((component) => component.name).lastIndexOf(kind);
      if (at < 0) problems.push({ line: one.line, text: `the end of ${kind}, which never began` });
      else while (open.length > at) finish(open.pop()!);
    } else {
      const current = open.at(-1);
      if (!current) {
        problems.push({ line: one.line, text: "it stands outside of any entry" });
        continue;
      }
      const property = propertyOf(one);
      if (typeof property === "string") problems.push({ line: one.line, text: property });
      else if (current.name === OUTER) {
        if (property.name === "METHOD") method = property.raw.toUpperCase();
      } else current.properties.push(property);
    }
  }
  for (const left of open.splice(0).reverse()) {
    problems.push({ line: left.line, text: `${left.name} has no end` });
    finish(left);
  }
  if (!isCalendar && components.length === 0) problems.unshift({ line: 1, text: "this is no calendar" });
  return { components, method, problems };
}

/** The first property of a name. */
export const first = (component: Component, name: string): Property | undefined =>
  component.properties.find((property) => property.name === name);
export const all = (component: Component, name: string): readonly Property[] =>
  component.properties.filter((property) => property.name === name);

/** Its text; "" where there is none, or it is none. */
export function textOf(component: Component, name: string): string {
  const value: unknown = first(component, name)?.read.getFirstValue();
  return typeof value === "string" ? value : "";
}

/** A parameter in the case it was written in; "" for none. */
export function parameterOf({ read }: Property, name: string): string {
  const value: unknown = read.getParameter(name.toLowerCase());
  const one: unknown = Array.isArray(value) ? value[0] : value;
  return typeof one === "string" ? one : "";
}

/** A time as it is written: its clock's numbers (ms as if in Greenwich), and which clock that is. */
export interface Stamp {
  readonly wall: number;
  readonly isDay: boolean;
  readonly isUtc: boolean;
}

/** A date, a time, or the beginning of a period; null for what is none. */
export function stampOf(value: unknown): Stamp | null {
  const time = value instanceof ICAL.Period ? value.start : value;
  if (!(time instanceof ICAL.Time)) return null;
  const { year, month, day, hour, minute, second } = time;
  const wall = Date.UTC(year, month - 1, day, hour, minute, Math.min(59, second));
  return year >= 1600 && year <= 9999
    ? { wall, isDay: time.isDate, isUtc: time.zone === ICAL.Timezone.utcTimezone }
    : null;
}

/** Seconds; null for what is no duration. */
export const secondsOf = (value: unknown): number | null => (value instanceof ICAL.Duration ? value.toSeconds() : null);

/** By how much the clock of a described zone is ahead of Greenwich when it shows that, ms; null where it is not said. */
export function offsetIn(zone: Component): ((wall: number) => number) | null {
  try {
    const component = new ICAL.Component("vtimezone");
    component.addPropertyWithValue("tzid", textOf(zone, "TZID"));
    for (const part of zone.parts) {
      const observance = new ICAL.Component(part.name.toLowerCase());
      for (const { read } of part.properties) observance.addProperty(read);
      component.addSubcomponent(observance);
    }
    const timezone = new ICAL.Timezone({ component, tzid: textOf(zone, "TZID") });
    const offset = (wall: number): number => {
      const at = new Date(wall);
      const time = new ICAL.Time(
        {
          year: at.getUTCFullYear(),
          month: at.getUTCMonth() + 1,
          day: at.getUTCDate(),
          hour: at.getUTCHours(),
          minute: at.getUTCMinutes(),
          second: 0,
          isDate: false,
        },
        ICAL.Timezone.localTimezone,
      );
      return timezone.utcOffset(time) * 1000;
    };
    return Number.isFinite(offset(Date.UTC(2020, 0, 1))) ? offset : null;
  } catch {
    return null;
  }
}
