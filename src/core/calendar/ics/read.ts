import { PLAIN_EVENT, REPLIES, type Attendee, type CalendarEvent, type ReplyState } from "../../change";
import {
  all,
  atOnce,
  first,
  parameterOf,
  readCalendar,
  secondsOf,
  stampOf,
  textOf,
  type Component,
  type Problem,
  type Property,
  type Stamp,
  type Steps,
} from "../../mail/calendar";
import { budget, timesOf, troubleOf, UNTIL, type Budget } from "../rule";
import { DAY_MS, instantAt, readWall, wallAt, wallOf } from "../wall";
import { repeatOfRule } from "./repeat";
import { zoneFinder, type FoundZone } from "./zones";

/** Events and to-dos as other programs write them, as they are kept here. */

export interface ReadEvent {
  readonly line: number;
  /** But for the calendar, which whoever takes it in knows. */
  readonly event: Omit<CalendarEvent, "calendar">;
}

export interface ReadTask {
  readonly line: number;
  readonly uid: string;
  readonly title: string;
  /** ISO 8601 */
  readonly due: string | null;
  /** Minutes. */
  readonly estimate: number | null;
  readonly done: boolean;
  readonly pressing: boolean;
  /** As core/agenda says how often. */
  readonly repeat: string | null;
}

export interface ReadIcs {
  readonly method: string | null;
  readonly events: readonly ReadEvent[];
  readonly tasks: readonly ReadTask[];
  readonly problems: readonly Problem[];
}

const MOST = { title: 500, place: 500, note: 20_000, dates: 5000, people: 500, uid: 500 };
const MOST_WORK_MINUTES = 8 * 60;
const LONGEST_SECONDS = 3_200_000_000;

/** What cannot be kept anywhere: NUL, other controls, and halves of pairs. */
const clean = (text: string, most: number): string =>
  text
    .replace(/[\p{Cs}\u0000-\u0008\u000b\u000c\u000e-\u001f]/gu, "")
    .trim()
    .slice(0, most)
    .replace(/[\ud800-\udbff]$/, "");

/** A name for what has none: the same for the same text, so that it is not here twice when it is read twice. */
function nameless(component: Component): string {
  let hash = 0n;
  for (const { name, raw } of component.properties)
    for (const letter of `${name}:${raw}\n`)
      hash = (hash * 1_099_511_628_211n + BigInt(letter.codePointAt(0)!)) % 2n ** 64n;
  return `${hash.toString(16)}@unnamed.example`;
}

const addressOf = (property: Property): string =>
  property.raw
    .replace(/^mailto:/i, "")
    .trim()
    .toLowerCase();

class Reader {
  readonly problems: Problem[] = [];
  readonly zoneNamed: (name: string, year: number) => FoundZone;
  private readonly spent: Budget = budget();
  private readonly said = new Set<string>();

  constructor(
    components: readonly Component[],
    readonly home: string,
  ) {
    this.zoneNamed = zoneFinder(components, home);
  }

  trouble({ line }: { readonly line: number }, text: string): void {
    this.problems.push({ line, text });
  }

  /** Which clock a time hangs at. */
  zoneOf(property: Property, stamp: Stamp): string {
    if (stamp.isDay) return "";
    if (stamp.isUtc) return "UTC";
    const name = parameterOf(property, "TZID");
    if (name === "") return "";
    const { zone, said } = this.zoneNamed(name, new Date(stamp.wall).getUTCFullYear());
    if (said !== null && !this.said.has(name)) this.trouble(property, said);
    this.said.add(name);
    return zone;
  }

  instantOf(property: Property, stamp: Stamp): number {
    return instantAt(this.zoneOf(property, stamp) || this.home, stamp.wall);
  }

  /** What the clock of a start shows at a time that may hang elsewhere. */
  wallOn(property: Property, stamp: Stamp, zone: string, whole: boolean): string {
    const own = this.zoneOf(property, stamp);
    const wall =
      stamp.isDay || own === zone ? stamp.wall : wallAt(zone || this.home, instantAt(own || this.home, stamp.wall));
    return wallOf(wall, whole);
  }

  stamp(component: Component, name: string): { property: Property; stamp: Stamp } | null {
    const property = first(component, name);
    if (!property) return null;
    const read = stampOf(property.read.getFirstValue());
    // The 31st of February is read as a day of March.
    const stamp = read && property.raw.startsWith(wallOf(read.wall, true).replaceAll("-", "")) ? read : null;
    if (!stamp) this.trouble(property, `${name} is no time: left out`);
    return stamp && { property, stamp };
  }

  /** Seconds from a start to what its end or duration says. */
  length(component: Component, start: { property: Property; stamp: Stamp }): number {
    const isDay = start.stamp.isDay;
    const end = this.stamp(component, "DTEND");
    const duration = first(component, "DURATION");
    let seconds = isDay ? DAY_MS / 1000 : 0;
    if (end)
      seconds = isDay
        ? (end.stamp.wall - start.stamp.wall) / 1000
        : (this.instantOf(end.property, end.stamp) - this.instantOf(start.property, start.stamp)) / 1000;
    else if (duration) seconds = secondsOf(duration.read.getFirstValue()) ?? seconds;
    if (isDay) seconds = Math.max(1, Math.round(seconds / 86_400)) * 86_400;
    if (seconds >= 0 && seconds <= LONGEST_SECONDS) return Math.round(seconds);
    this.trouble(component, "it ends before it begins, or in another age: taken without a length");
    return isDay ? 86_400 : 0;
  }

  rule(component: Component, start: Stamp, zone: string): string | null {
    const rules = all(component, "RRULE").flatMap((property) => {
      const text = property.raw
        .toUpperCase()
        .replace(/;$/, "")
        .replace(/UNTIL=([^;]+)/, (_, until: string) => {
          return `UNTIL=${this.until(until, zone)}`;
        });
      const trouble = troubleOf(text);
      if (trouble !== null) {
        this.trouble(property, `it comes again in no known way (${trouble}): taken once`);
        return [];
      }
      // A look at its first years tells whether anybody could follow it.
      const span = { from: start.wall, to: start.wall + 3 * 366 * DAY_MS };
      if (this.spent.left > 0 && timesOf(text, start.wall, span, MOST.dates, this.spent).cut && this.spent.left > 0)
        this.trouble(property, "it comes again more often than can be looked at: not all of it is shown");
      return [text];
    });
    return rules.length === 0 ? null : [...new Set(rules)].join("\n");
  }

  /** An end in Greenwich's time by the clock of the start. */
  private until(text: string, zone: string): string {
    if (!UNTIL.test(text) || !text.endsWith("Z")) return text;
    const [, year = "", month = "", day = "", hour = "", minute = "", second = ""] =
      /^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)/.exec(text) ?? [];
    const at = Date.UTC(Number(year), Number(month) - 1, Number(day), Number(hour), Number(minute), Number(second));
    if (Number.isNaN(at)) return text;
    return new Date(wallAt(zone || this.home, at)).toISOString().slice(0, 19).replace(/[-:]/g, "");
  }

  dates(component: Component, name: string, zone: string, whole: boolean): string[] {
    const found = new Set<string>();
    for (const property of all(component, name))
      for (const value of property.read.getValues() as unknown[]) {
        const stamp = stampOf(value);
        if (!stamp) this.trouble(property, `${name} holds what is no time: left out`);
        else if (found.size < MOST.dates) found.add(this.wallOn(property, stamp, zone, whole));
        else return [...found].sort();
      }
    return [...found].sort();
  }

  people(component: Component): Attendee[] {
    return all(component, "ATTENDEE")
      .slice(0, MOST.people)
      .map((property) => {
        const reply = parameterOf(property, "PARTSTAT").toLowerCase() as ReplyState;
        return {
          address: clean(addressOf(property), 254),
          name: clean(parameterOf(property, "CN"), 200),
          reply: REPLIES.includes(reply) ? reply : "needs-action",
        };
      });
  }

  remind(component: Component): number | null {
    for (const alarm of component.parts.filter(({ name }) => name === "VALARM")) {
      const seconds = secondsOf(first(alarm, "TRIGGER")?.read.getFirstValue());
      if (seconds !== null && seconds <= 0) return Math.min(40_320, Math.abs(Math.round(seconds / 60)));
    }
    return null;
  }

  event(component: Component): ReadEvent | null {
    const start = this.stamp(component, "DTSTART");
    if (!start) {
      this.trouble(component, "it says not when it begins: left out");
      return null;
    }
    const whole = start.stamp.isDay;
    const zone = this.zoneOf(start.property, start.stamp);
    const state = textOf(component, "STATUS").toLowerCase();
    const again = this.stamp(component, "RECURRENCE-ID");
    if (again && parameterOf(again.property, "RANGE") !== "")
      this.trouble(again.property, "it is said of all that follow: taken for this one only");
    const organizer = first(component, "ORGANIZER");
    const sequence = Number(first(component, "SEQUENCE")?.raw);
    const event: ReadEvent["event"] = {
      ...PLAIN_EVENT,
      uid: clean(textOf(component, "UID"), MOST.uid) || nameless(component),
      sequence: Number.isSafeInteger(sequence) && sequence > 0 ? sequence : 0,
      title: clean(textOf(component, "SUMMARY"), MOST.title) || "(no title)",
      place: clean(textOf(component, "LOCATION"), MOST.place),
      note: clean(textOf(component, "DESCRIPTION"), MOST.note),
      start: wallOf(start.stamp.wall, whole),
      length: this.length(component, start),
      zone,
      busy: textOf(component, "TRANSP").toUpperCase() !== "TRANSPARENT",
      state: state === "tentative" || state === "cancelled" ? state : "confirmed",
      rule: again ? null : this.rule(component, start.stamp, zone),
      also: again ? [] : this.dates(component, "RDATE", zone, whole),
      except: again ? [] : this.dates(component, "EXDATE", zone, whole),
      // By the clock of its series, which is nearly always its own.
      instead: again
        ? this.wallOn(
            again.property,
            again.stamp,
            again.stamp.isUtc ? zone : this.zoneOf(again.property, again.stamp),
            again.stamp.isDay,
          )
        : null,
      remind: this.remind(component),
      organizer: organizer ? clean(addressOf(organizer), 254) : "",
      attendees: this.people(component),
    };
    return { line: component.line, event };
  }

  task(component: Component): ReadTask {
    const due = this.stamp(component, "DUE");
    const priority = Number(first(component, "PRIORITY")?.raw ?? 0);
    const wall = due && (due.stamp.isDay ? due.stamp.wall + DAY_MS - 60_000 : due.stamp.wall);
    const at = due && instantAt(this.zoneOf(due.property, due.stamp) || this.home, wall!);
    const minutes = this.effort(component, at);
    return {
      line: component.line,
      uid: clean(textOf(component, "UID"), MOST.uid) || nameless(component),
      title: clean(textOf(component, "SUMMARY"), 300).replace(/\s+/g, " ") || "(no title)",
      due: at === null ? null : new Date(at).toISOString(),
      estimate: minutes !== null && minutes >= 1 && minutes <= 10_000 ? minutes : null,
      done: /^(COMPLETED|CANCELLED)$/i.test(textOf(component, "STATUS")),
      pressing: priority >= 1 && priority <= 4,
      repeat: this.repeat(component, at),
    };
  }

  /** How long a to-do takes, minutes: what it says, or from its beginning to when it is due, if that is one piece of work. */
  private effort(component: Component, due: number | null): number | null {
    const said = secondsOf(first(component, "DURATION")?.read.getFirstValue());
    if (said !== null) return Math.round(said / 60);
    const start = first(component, "DTSTART") && due !== null ? this.stamp(component, "DTSTART") : null;
    if (!start || start.stamp.isDay) return null;
    const minutes = Math.round((due! - this.instantOf(start.property, start.stamp)) / 60_000);
    // Longer is the span in which it is to be done.
    return minutes <= MOST_WORK_MINUTES ? minutes : null;
  }

  private repeat(component: Component, due: number | null): string | null {
    const rule = first(component, "RRULE");
    if (!rule) return null;
    if (due === null) {
      this.trouble(rule, "what comes again begins on a day it is due: taken in for once");
      return null;
    }
    const [, month, day] = wallOf(wallAt(this.home, due), true).split("-").map(Number);
    const repeat = repeatOfRule(rule.raw, { month: month!, day: day! });
    if (repeat === null) this.trouble(rule, "tasks do not come again in this way: taken in for once");
    return repeat;
  }
}

/** So many entries are looked at in a step. */
const ENTRIES = 50;

/**
 * Reads events and to-dos of calendars, as far as they can be read.
 * @param home the person's zone: what hangs in no zone, or in one that nobody knows, hangs there
 */
export const readIcs = (source: string, home: string): ReadIcs => atOnce(readIcsInSteps(source, home));

/** The same in steps. */
export function* readIcsInSteps(source: string, home: string): Steps<ReadIcs> {
  const { components, method, problems } = yield* readCalendar(source);
  const reader = new Reader(components, home);
  const events = new Map<string, ReadEvent>();
  const tasks = new Map<string, ReadTask>();
  for (const [i, component] of components.entries()) {
    if (i % ENTRIES === ENTRIES - 1) yield;
    if (component.name === "VEVENT") {
      const read = reader.event(component);
      if (!read) continue;
      const key = `${read.event.uid}\n${read.event.instead ?? ""}`;
      const before = events.get(key);
      if (before && before.event.sequence > read.event.sequence)
        reader.trouble(read, "it is older than what stands before it: left out");
      else {
        if (before) reader.trouble(before, `line ${read.line} says it anew: left out`);
        events.set(key, read);
      }
    } else if (component.name === "VTODO") {
      const task = reader.task(component);
      tasks.set(task.uid, task);
    } else if (component.name !== "VTIMEZONE")
      reader.trouble(component, `${component.name} is nothing that is kept here`);
  }
  return {
    method,
    events: withClocks([...events.values()]),
    tasks: [...tasks.values()],
    problems: [...problems, ...reader.problems].sort((a, b) => a.line - b.line),
  };
}

/** Instances that stand elsewhere are named by the clock of their series, whatever clock they were said by. */
function withClocks(events: readonly ReadEvent[]): ReadEvent[] {
  const series = new Map(events.filter(({ event }) => event.instead === null).map(({ event }) => [event.uid, event]));
  return events.map((read) => {
    const { instead, zone, uid } = read.event;
    const of = instead === null ? undefined : series.get(uid);
    if (!of || instead === null || of.zone === zone || instead.length === 10) return read;
    const at = instantAt(zone || "UTC", readWall(instead));
    return { ...read, event: { ...read.event, instead: wallOf(wallAt(of.zone || zone || "UTC", at)) } };
  });
}
