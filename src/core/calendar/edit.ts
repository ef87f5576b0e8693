import { sameThing, type CalendarEvent } from "../change";
import { budget, timesOf } from "./rule";
import { DAY_MS, isDay, readWall, wallOf } from "./wall";

/** Changes to what comes again: to one of it, to that and all that follow, or to all of it. */

export const SCOPES = ["one", "following", "all"] as const;
export type Scope = (typeof SCOPES)[number];

/** What of an event a person writes. */
export type EventPatch = Partial<
  Pick<
    CalendarEvent,
    | "calendar"
    | "title"
    | "place"
    | "note"
    | "start"
    | "length"
    | "zone"
    | "busy"
    | "state"
    | "rule"
    | "block"
    | "remind"
    | "attendees"
  >
>;

/** An event with those of its series that were changed. Keys are whatever the caller knows them by. */
export interface Series<K> {
  readonly key: K;
  readonly event: CalendarEvent;
  readonly own: readonly { readonly key: K; readonly event: CalendarEvent }[];
}

/** What becomes of an event: null for what is deleted. `key` null for a new one. */
export interface EventEdit<K> {
  readonly key: K | null;
  readonly before: CalendarEvent | null;
  readonly after: CalendarEvent | null;
}

/** Whether an event is part of a series at all. */
export const comesAgain = ({ rule, also }: CalendarEvent): boolean => rule !== null || also.length > 0;

const edited = <K>(key: K, before: CalendarEvent, after: CalendarEvent | null): EventEdit<K>[] =>
  sameThing(before, after) ? [] : [{ key, before, after }];

/** The rules of an event that end before one of its times. */
function endedBefore(event: CalendarEvent, at: number): string | null {
  if (event.rule === null) return null;
  const until = wallOf(at - (isDay(event.start) ? DAY_MS : 1000), isDay(event.start)).replace(/[-:]/g, "");
  const text = until.length === 13 ? `${until}00` : until;
  return event.rule
    .split("\n")
    .map((rule) => `${rule.replace(/;?(UNTIL|COUNT)=[^;]*/g, "")};UNTIL=${text}`.replace(/^;/, ""))
    .join("\n");
}

/** The rules as they go on from one of the times: what is counted has so many fewer left. */
function goingOnFrom(event: CalendarEvent, at: number): string | null {
  if (event.rule === null) return null;
  const start = readWall(event.start);
  return event.rule
    .split("\n")
    .map((rule) =>
      rule.replace(/COUNT=(\d+)/, (_, count: string) => {
        const { times } = timesOf(rule, start, { from: start, to: at - 1 }, Number(count), budget());
        return `COUNT=${Math.max(1, Number(count) - times.length)}`;
      }),
    )
    .join("\n");
}

/** The first of its rules' times from one on; null where they have none, or it has no rules. */
function nextByRule(event: CalendarEvent, at: number): number | null {
  const start = readWall(event.start);
  const times = (event.rule?.split("\n") ?? []).flatMap((rule) => {
    return timesOf(rule, start, { from: at, to: at + LOOK_AHEAD_MS }, 1, budget()).times.slice(0, 1);
  });
  return times.length === 0 ? null : Math.min(...times);
}
/** No rule that anybody means leaves out more. */
const LOOK_AHEAD_MS = 9 * 366 * DAY_MS;

/** So much later, by the wall. */
const later = (text: string, ms: number): string => wallOf(readWall(text) + ms, isDay(text));
/** The same with the times of one start given to another: days stay days where both are, else the start says. */
const moved = (texts: readonly string[], ms: number, whole: boolean): string[] =>
  texts.map((text) => wallOf(readWall(text) + ms, whole));

const WEEKDAYS = ["SU", "MO", "TU", "WE", "TH", "FR", "SA"];

/** A rule whose times are moved: the days that it names go along. */
function movedRule(rule: string, from: number, to: number): string {
  const [before, after] = [new Date(from), new Date(to)];
  const days = Math.round((Math.floor(to / DAY_MS) - Math.floor(from / DAY_MS)) % 7);
  if (days === 0 && before.getUTCDate() === after.getUTCDate()) return rule;
  const only = (name: string, was: number, is: number, text: string) =>
    text.replace(new RegExp(`\\b${name}=${was}(?=;|$)`), `${name}=${is}`);
  const weekly = rule.replace(/BYDAY=([^;]+)/, (_, list: string) => {
    const moved = list.split(",").map((one) => {
      const at = WEEKDAYS.indexOf(one.slice(-2));
      return `${one.slice(0, -2)}${WEEKDAYS[(at + days + 7) % 7]!}`;
    });
    return `BYDAY=${moved.join(",")}`;
  });
  const monthly = only("BYMONTHDAY", before.getUTCDate(), after.getUTCDate(), weekly);
  return only("BYMONTH", before.getUTCMonth() + 1, after.getUTCMonth() + 1, monthly);
}

/** A series whose start is another: what is excepted or besides its rule goes along with it. */
function withStart(event: CalendarEvent, start: string, rulesFrom = event.start): CalendarEvent {
  const by = readWall(start) - readWall(event.start);
  const whole = isDay(start);
  const named = readWall(rulesFrom);
  return {
    ...event,
    start,
    rule:
      event.rule
        ?.split("\n")
        .map((rule) => movedRule(rule, named, named + by))
        .join("\n") ?? null,
    also: moved(event.also, by, whole),
    except: moved(event.except, by, whole),
  };
}

function changeAll<K>({ key, event, own }: Series<K>, at: string, patch: EventPatch): EventEdit<K>[] {
  // A start is that of the one in hand: the series goes as far as it went.
  const by = patch.start === undefined ? 0 : readWall(patch.start) - readWall(at);
  const { start, ...rest } = patch;
  const whole = start === undefined ? isDay(event.start) : isDay(start);
  const changed = {
    ...withStart(event, wallOf(readWall(event.start) + by, whole), at),
    ...rest,
  };
  const others = own.flatMap((one) => {
    // What one of them was given of its own stays; what it has from its series changes with it.
    const after: Record<string, unknown> = { ...one.event, instead: wallOf(readWall(one.event.instead!) + by, whole) };
    for (const [name, value] of Object.entries(rest))
      if (name !== "rule" && sameThing(one.event[name as "title"] as never, event[name as "title"] as never))
        after[name] = value;
    if (patch.rule === null) return edited(one.key, one.event, null);
    return edited(one.key, one.event, after as unknown as CalendarEvent);
  });
  const once = patch.rule === null ? { also: [], except: [] } : {};
  return [...edited(key, event, { ...changed, ...once }), ...others];
}

/** Cuts a series in two before one of its times: what went before, and what follows as a series of its own. */
function changeFollowing<K>(series: Series<K>, at: string, patch: EventPatch | null, uid: string): EventEdit<K>[] {
  const { key, event, own } = series;
  const wall = readWall(at);
  if (readWall(event.start) >= wall) return patch === null ? deleteAll(series) : changeAll(series, at, patch);
  const before = (text: string) => readWall(text) < wall;
  const head: CalendarEvent = {
    ...event,
    rule: endedBefore(event, wall),
    also: event.also.filter(before),
    except: event.except.filter(before),
  };
  const rest = own.filter((one) => !before(one.event.instead!));
  if (patch === null) return [...edited(key, event, head), ...rest.flatMap((one) => edited(one.key, one.event, null))];
  const { start = at, ...others } = patch;
  const by = readWall(start) - wall;
  const next = nextByRule(event, wall);
  const tail: CalendarEvent = {
    ...event,
    uid,
    sequence: 0,
    start: wallOf(next ?? wall, isDay(event.start)),
    rule: next === null ? null : goingOnFrom(event, wall),
    also: event.also.filter((text) => !before(text) && readWall(text) !== (next ?? wall)),
    except: event.except.filter((text) => !before(text)),
  };
  const after = { ...withStart(tail, wallOf((next ?? wall) + by, isDay(start)), at), ...others };
  return [
    ...edited(key, event, head),
    { key: null, before: null, after },
    ...rest.flatMap((one) => edited(one.key, one.event, { ...one.event, uid, instead: later(one.event.instead!, by) })),
  ];
}

const deleteAll = <K>({ key, event, own }: Series<K>): EventEdit<K>[] => [
  { key, before: event, after: null },
  ...own.map((one) => ({ key: one.key, before: one.event, after: null })),
];

function changeOne<K>({ key, event, own }: Series<K>, at: string, patch: EventPatch | null): EventEdit<K>[] {
  const there = own.find((one) => one.event.instead === at);
  if (patch === null)
    return [
      ...edited(key, event, { ...event, except: [...new Set([...event.except, at])].sort() }),
      ...(there ? edited(there.key, there.event, null) : []),
    ];
  const { rule: _, calendar: __, ...rest } = patch;
  if (there) return edited(there.key, there.event, { ...there.event, ...rest });
  const alone: CalendarEvent = { ...event, start: at, rule: null, also: [], except: [], instead: at };
  const after = { ...alone, ...rest };
  return sameThing(alone, after) ? [] : [{ key: null, before: null, after }];
}

/**
 * What is written when one of an event's times is changed.
 * @param at which of them, as Occurrence has it @param patch null deletes @param uid for a series that begins anew
 */
export function editEvent<K>(
  series: Series<K>,
  at: string,
  scope: Scope,
  patch: EventPatch | null,
  uid: string,
): readonly EventEdit<K>[] {
  if (!comesAgain(series.event) || scope === "all")
    return patch === null ? deleteAll(series) : changeAll(series, at, patch);
  if (scope === "one") return changeOne(series, at, patch);
  return changeFollowing(series, at, patch, uid);
}
