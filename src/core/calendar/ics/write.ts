import type { CalendarEvent, Task } from "../../change";
import { atOnce, durationOf, printCalendar, timeOf, type Line, type Steps, type Tree } from "../../mail/calendar";
import { USUAL_ESTIMATE } from "../plan";
import { DAY_MS, instantAt, isDay, readWall, wallAt, wallOf } from "../wall";
import { ruleOfRepeat } from "./repeat";

/** Events and to-dos as other programs read them. */

export const PRODUCT = "-//Tachyne//Agenda//EN";

const text = (name: string, value: string): Line[] => (value === "" ? [] : [{ name, value }]);

/** A time by the clock of an event. */
function time(name: string, wall: string, zone: string): Line {
  const whole = isDay(wall);
  return {
    name,
    value: timeOf(readWall(wall), { isDay: whole, isUtc: zone === "UTC" && !whole }),
    ...(whole ? { type: "date" } : {}),
    ...(zone === "" || zone === "UTC" || whole ? {} : { parameters: { TZID: zone } }),
  };
}

/** By Greenwich's clock, as RFC 5545 wants an end of what hangs in a zone. */
function ruleLine(rule: string, event: CalendarEvent): Line {
  const value = rule.replace(/UNTIL=(\d{8})T(\d{6})/, (whole, day: string, clock: string) => {
    if (event.zone === "") return whole;
    const wall = Date.UTC(
      Number(day.slice(0, 4)),
      Number(day.slice(4, 6)) - 1,
      Number(day.slice(6)),
      Number(clock.slice(0, 2)),
      Number(clock.slice(2, 4)),
      Number(clock.slice(4)),
    );
    return `UNTIL=${new Date(instantAt(event.zone, wall)).toISOString().slice(0, 19).replace(/[-:]/g, "")}Z`;
  });
  return { name: "RRULE", value, type: "recur" };
}

const mailto = (address: string): string => `mailto:${address}`;

/** One event. @param stamp when it was written, ms @param series whose clock an instance of its own is named by */
export function eventTree(event: CalendarEvent, stamp: number, series: CalendarEvent = event): Tree {
  const lines: Line[] = [
    { name: "UID", value: event.uid },
    { name: "DTSTAMP", value: timeOf(stamp, { isUtc: true }) },
    time("DTSTART", event.start, event.zone),
    isDay(event.start)
      ? time("DTEND", new Date(readWall(event.start) + event.length * 1000).toISOString().slice(0, 10), "")
      : { name: "DURATION", value: durationOf(event.length) },
    { name: "SEQUENCE", value: event.sequence, type: "integer" },
    ...text("SUMMARY", event.title),
    ...text("LOCATION", event.place),
    ...text("DESCRIPTION", event.note),
    { name: "STATUS", value: event.state.toUpperCase() },
    { name: "TRANSP", value: event.busy ? "OPAQUE" : "TRANSPARENT" },
    ...(event.rule?.split("\n") ?? []).map((rule) => ruleLine(rule, event)),
    ...event.also.map((wall) => time("RDATE", wall, event.zone)),
    ...event.except.map((wall) => time("EXDATE", wall, event.zone)),
    ...(event.instead === null ? [] : [time("RECURRENCE-ID", event.instead, series.zone)]),
    ...(event.organizer === "" ? [] : [{ name: "ORGANIZER", value: mailto(event.organizer), type: "cal-address" }]),
    ...event.attendees.map(({ address, name, reply }): Line => {
      const parameters = { ...(name === "" ? {} : { CN: name }), PARTSTAT: reply.toUpperCase() };
      return { name: "ATTENDEE", value: mailto(address), type: "cal-address", parameters };
    }),
  ];
  if (event.remind === null) return { name: "vevent", lines };
  const alarm: Tree = {
    name: "valarm",
    lines: [
      { name: "ACTION", value: "DISPLAY" },
      { name: "DESCRIPTION", value: event.title },
      { name: "TRIGGER", value: durationOf(-event.remind * 60), type: "duration" },
    ],
  };
  return { name: "vevent", lines, parts: [alarm] };
}

/**
 * When a to-do is due, how long it takes, and how often it comes again: by the clock of a zone where it does. What comes
 * again has a beginning (RFC 5545, 3.8.2.4), and what is due has one before it.
 */
function dueLines({ due, estimate, repeat }: Task, zone: string): Line[] {
  if (due === null) return [];
  const at = Date.parse(due);
  const wall = wallOf(wallAt(zone, at), true);
  const [, month, day] = wall.split("-").map(Number);
  const rule = repeat === null ? null : ruleOfRepeat(repeat, { month: month!, day: day! });
  const clock = (name: string, ms: number): Line =>
    rule === null ? { name, value: timeOf(ms, { isUtc: true }) } : time(name, wallOf(wallAt(zone, ms)), zone);
  const minutes = estimate ?? (rule === null ? null : USUAL_ESTIMATE);
  return [
    ...(minutes === null ? [] : [clock("DTSTART", at - minutes * 60_000)]),
    clock("DUE", at),
    ...(rule === null ? [] : [{ name: "RRULE", value: rule, type: "recur" }]),
  ];
}

const taskTree = (id: string, task: Task, stamp: number, zone: string): Tree => ({
  name: "vtodo",
  lines: [
    { name: "UID", value: id },
    { name: "DTSTAMP", value: timeOf(stamp, { isUtc: true }) },
    { name: "SUMMARY", value: task.title },
    { name: "STATUS", value: task.done ? "COMPLETED" : "NEEDS-ACTION" },
    ...dueLines(task, zone),
    ...(task.pressing ? [{ name: "PRIORITY", value: 1, type: "integer" }] : []),
    ...text("DESCRIPTION", task.about),
  ],
});

/** How far ahead clocks are described: what comes again for longer is read by those that know the zone's name. */
const YEARS_AHEAD = 20;

const offsetText = (ms: number): string => {
  const minutes = Math.abs(ms) / 60_000;
  const pad = (value: number) => String(Math.floor(value)).padStart(2, "0");
  return `${ms < 0 ? "-" : "+"}${pad(minutes / 60)}:${pad(minutes % 60)}`;
};

/** A zone's clock as RFC 5545 describes it: each change of it, from one year on. */
function zoneTree(zone: string, from: number, to: number): Tree {
  const offset = (at: number) => wallAt(zone, at) - at;
  const changes: { readonly wall: number; readonly before: number; readonly after: number }[] = [];
  for (let at = from; at < to; at += DAY_MS) {
    const [before, after] = [offset(at), offset(at + DAY_MS)];
    if (before === after) continue;
    // The quarter of an hour of that day in which it happens.
    let [low, high] = [at, at + DAY_MS];
    while (high - low > 60_000) {
      const middle = Math.floor((low + high) / 2 / 60_000) * 60_000;
      if (offset(middle) === before) low = middle;
      else high = middle;
    }
    changes.push({ wall: high + before, before, after });
  }
  const first = offset(from);
  const observance = (wall: number, before: number, after: number, dates: readonly number[]): Tree => ({
    name: after > before ? "daylight" : "standard",
    lines: [
      { name: "DTSTART", value: timeOf(wall) },
      { name: "TZOFFSETFROM", value: offsetText(before), type: "utc-offset" },
      { name: "TZOFFSETTO", value: offsetText(after), type: "utc-offset" },
      ...dates.map((date): Line => ({ name: "RDATE", value: timeOf(date) })),
    ],
  });
  const kinds = new Map<string, number[]>();
  for (const { wall, before, after } of changes) {
    const key = `${before} ${after}`;
    kinds.set(key, [...(kinds.get(key) ?? []), wall]);
  }
  return {
    name: "vtimezone",
    lines: [{ name: "TZID", value: zone }],
    parts: [
      observance(from + first, first, first, []),
      ...[...kinds].map(([key, [start = 0, ...rest]]) => {
        const [before = 0, after = 0] = key.split(" ").map(Number);
        // Some readers take the dates for all there is.
        return observance(start, before, after, rest.length > 0 ? [start, ...rest] : []);
      }),
    ],
  };
}

/** What goes into a calendar that others read. */
export interface Shared {
  readonly events: readonly CalendarEvent[];
  /** By a name of its own each. */
  readonly tasks?: readonly (readonly [uid: string, task: Task])[];
  /** By whose clock to-dos come again. */
  readonly zone?: string;
  readonly name?: string;
  /** RFC 5546: REQUEST, REPLY, CANCEL */
  readonly method?: string;
}

/** @param now ms */
export const writeIcs = (shared: Shared, now: number): string => atOnce(writeIcsInSteps(shared, now));

/** The same in steps. */
export function* writeIcsInSteps(
  { events, tasks = [], zone = "UTC", name, method }: Shared,
  now: number,
): Steps<string> {
  const earliest = events.reduce((least, { start }) => Math.min(least, readWall(start)), now);
  const year = new Date(earliest).getUTCFullYear();
  const [from, to] = [Date.UTC(Math.max(1970, year), 0, 1), now + YEARS_AHEAD * 366 * DAY_MS];
  const clocks = [
    ...events.map((event) => (isDay(event.start) ? "" : event.zone)),
    ...tasks.map(([, { repeat }]) => (repeat === null ? "" : zone)),
  ];
  const zones = new Set(clocks.filter((one) => one !== "" && one !== "UTC"));
  const series = new Map(events.filter(({ instead }) => instead === null).map((event) => [event.uid, event]));
  const lines = [
    { name: "VERSION", value: "2.0" },
    { name: "PRODID", value: PRODUCT },
    { name: "CALSCALE", value: "GREGORIAN" },
    ...(method ? [{ name: "METHOD", value: method }] : []),
    ...(name ? [{ name: "NAME", value: name }] : []),
  ];
  function* parts(): Generator<Tree> {
    for (const one of zones) yield zoneTree(one, from, to);
    for (const event of events) yield eventTree(event, now, series.get(event.uid));
    for (const [uid, task] of tasks) yield taskTree(uid, task, now, zone);
  }
  return yield* printCalendar({ name: "vcalendar", lines }, parts());
}
