import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { boundsOf, editEvent, occurrences, troubleOf, type EventEdit, type EventPatch, type Scope } from ".";
import { PLAIN_EVENT, type CalendarEvent } from "../change";

const ZONE = "Europe/Zurich";
const eventOf = (parts: Partial<CalendarEvent>): CalendarEvent => ({
  ...PLAIN_EVENT,
  calendar: 1,
  uid: "s",
  title: "Round",
  zone: ZONE,
  start: "2026-11-02T10:00",
  length: 3600,
  ...parts,
});
const clock = new Intl.DateTimeFormat("sv-SE", { timeZone: ZONE, dateStyle: "short", timeStyle: "short" });
const shown = (ms: number) => clock.format(new Date(ms));
const range = (from: string, to: string) => ({ from: Date.parse(`${from}T00:00Z`), to: Date.parse(`${to}T00:00Z`) });
const YEAR = range("2026-01-01", "2028-01-01");

/** What a person sees of some events: when each takes place, by the platform's own clock. */
function timesOf(events: readonly CalendarEvent[], within = YEAR): string[] {
  return events
    .flatMap((event) => {
      const instead = new Set(
        events.filter((one) => one.uid === event.uid && one.instead !== null).map((one) => one.instead!),
      );
      const none = event.instead === null ? instead : new Set<string>();
      return occurrences(event, within, ZONE, none).list.map(({ start }) => `${shown(start)} ${event.title}`);
    })
    .sort();
}

describe("when it takes place", () => {
  test("at the same time by the clock on both sides of its change, and as long as ever", () => {
    const { list } = occurrences(
      eventOf({ start: "2026-10-24T01:30", length: 7200, rule: "FREQ=DAILY;COUNT=3" }),
      YEAR,
      "UTC",
    );
    expect(list.map(({ start, end }) => [shown(start), (end - start) / 60_000])).toEqual([
      ["2026-10-24 01:30", 120],
      ["2026-10-25 01:30", 120],
      ["2026-10-26 01:30", 120],
    ]);
  });

  test("a time that clocks skip is as far after the jump; one they show twice is the first", () => {
    const spring = occurrences(eventOf({ start: "2026-03-29T02:30" }), YEAR, "UTC").list;
    expect(spring[0]!.start).toBe(Date.parse("2026-03-29T01:30Z"));
    const autumn = occurrences(eventOf({ start: "2026-10-25T02:30" }), YEAR, "UTC").list;
    expect(autumn[0]!.start).toBe(Date.parse("2026-10-25T00:30Z"));
  });

  test("whole days are from midnight to midnight where the person is, however long that is", () => {
    const { list } = occurrences(eventOf({ start: "2026-10-25", length: 86_400, zone: "" }), YEAR, ZONE);
    expect(list).toEqual([
      { at: "2026-10-25", start: Date.parse("2026-10-24T22:00Z"), end: Date.parse("2026-10-25T23:00Z") },
    ]);
  });

  test("what began before a range and lasts into it counts, what only touches it does not", () => {
    const event = eventOf({ rule: "FREQ=DAILY" });
    const at = (from: string, to: string) =>
      occurrences(event, { from: Date.parse(from), to: Date.parse(to) }, ZONE).list.length;
    expect(at("2026-11-05T09:59Z", "2026-11-05T10:30Z")).toBe(1);
    expect(at("2026-11-05T10:00Z", "2026-11-05T10:30Z")).toBe(0);
    expect(at("2026-11-05T08:00Z", "2026-11-05T09:00Z")).toBe(0);
    expect(at("2026-11-05T08:00Z", "2026-11-05T09:01Z")).toBe(1);
  });

  test("a moment counts where it is the range's first", () => {
    const moment = eventOf({ length: 0, zone: "UTC" });
    const from = Date.parse("2026-11-02T10:00Z");
    expect(occurrences(moment, { from, to: from + 1 }, ZONE).list).toHaveLength(1);
    expect(occurrences(moment, { from: from + 1, to: from + 2 }, ZONE).list).toHaveLength(0);
  });

  test("a first time that its rule does not have counts, as one of those it is counted by", () => {
    const event = eventOf({ start: "2026-11-02T10:00", rule: "FREQ=WEEKLY;BYDAY=TU;COUNT=3" });
    expect(timesOf([event])).toEqual(["2026-11-02 10:00 Round", "2026-11-03 10:00 Round", "2026-11-10 10:00 Round"]);
  });

  test("what is cancelled takes no place", () => {
    expect(timesOf([eventOf({ state: "cancelled" })])).toEqual([]);
  });

  test("a rule begun long ago is looked at where it is asked for", () => {
    for (const rule of [
      "FREQ=DAILY;INTERVAL=3",
      "FREQ=HOURLY;INTERVAL=7",
      "FREQ=MINUTELY;INTERVAL=45",
      "FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,FR",
    ]) {
      const event = eventOf({ start: "1990-01-05T10:00", rule, zone: "UTC" });
      const late = occurrences(event, range("2026-11-02", "2026-11-09"), ZONE);
      expect(late.cut, rule).toBe(false);
      // Counted on from the first by the tests' own steps.
      const step = {
        "FREQ=DAILY;INTERVAL=3": 3 * 1440,
        "FREQ=HOURLY;INTERVAL=7": 420,
        "FREQ=MINUTELY;INTERVAL=45": 45,
      }[rule];
      const first = Date.parse("1990-01-05T10:00Z");
      if (step) for (const { start } of late.list) expect((start - first) % (step * 60_000), rule).toBe(0);
      expect(late.list.length, rule).toBeGreaterThan(1);
    }
  });

  test("bounds hold all of it", () => {
    const rule = fc.constantFrom(
      null,
      "FREQ=DAILY;COUNT=5",
      "FREQ=WEEKLY;UNTIL=20270301T120000",
      "FREQ=MONTHLY;COUNT=4;BYDAY=-1FR",
    );
    const zone = fc.constantFrom("", ZONE, "Pacific/Auckland");
    fc.assert(
      fc.property(rule, zone, fc.constantFrom("Pacific/Apia", "Pacific/Niue", ZONE), (text, own, home) => {
        const event = eventOf({ rule: text, zone: own, also: ["2026-12-24T18:00"] });
        const { start, end } = boundsOf(event, "UTC");
        const { list } = occurrences(event, range("2020-01-01", "2030-01-01"), home);
        expect(list.length).toBeGreaterThan(0);
        for (const one of list) {
          expect(one.start).toBeGreaterThanOrEqual(start);
          expect(one.end).toBeLessThanOrEqual(end!);
        }
      }),
    );
    expect(boundsOf(eventOf({ rule: "FREQ=DAILY" }), "UTC").end).toBeNull();
    // And no more than they must: an hour after the last that can be.
    const endOf = (rule: string) => new Date(boundsOf(eventOf({ rule, zone: "UTC" }), "UTC").end!).toISOString();
    expect(endOf("FREQ=DAILY;UNTIL=20261231T235959")).toBe("2027-01-01T00:59:59.000Z");
    expect(endOf("FREQ=DAILY;UNTIL=20270115")).toBe("2027-01-16T00:59:59.000Z");
    expect(endOf("FREQ=DAILY;COUNT=3")).toBe("2026-11-04T11:00:00.000Z");
  });
});

describe("changing what comes again", () => {
  const FIVE = eventOf({ rule: "FREQ=DAILY;COUNT=5" });
  const day = (number: number, hour = 10, title = "Round") => `2026-11-0${number} ${hour}:00 ${title}`;

  /** Applies edits as a store would. */
  function after(events: readonly CalendarEvent[], edits: readonly EventEdit<number>[]): CalendarEvent[] {
    const kept: (CalendarEvent | null)[] = [...events];
    for (const { key, before, after: to } of edits) {
      if (key === null) kept.push(to);
      else {
        expect(kept[key]).toEqual(before);
        kept[key] = to;
      }
    }
    return kept.filter((one): one is CalendarEvent => one !== null);
  }
  const edit = (events: readonly CalendarEvent[], at: string, scope: Scope, patch: EventPatch | null) => {
    const own = events.flatMap((event, key) => (event.instead === null ? [] : [{ key, event }]));
    return after(events, editEvent({ key: 0, event: events[0]!, own }, at, scope, patch, "other"));
  };
  const NOON: EventPatch = { start: "2026-11-04T12:00" };

  test("one of it", () => {
    const moved = edit([FIVE], "2026-11-04T10:00", "one", NOON);
    expect(timesOf(moved)).toEqual([day(2), day(3), day(4, 12), day(5), day(6)]);
    // The same one again, though it stands elsewhere by now.
    const again = edit(moved, "2026-11-04T10:00", "one", { title: "Walk" });
    expect(timesOf(again)).toEqual([day(2), day(3), day(4, 12, "Walk"), day(5), day(6)]);
    expect(again).toHaveLength(2);
    expect(timesOf(edit(again, "2026-11-04T10:00", "one", null))).toEqual([day(2), day(3), day(5), day(6)]);
  });

  test("that and all that follow", () => {
    const moved = edit([FIVE], "2026-11-04T10:00", "following", { ...NOON, title: "Walk" });
    expect(timesOf(moved)).toEqual([day(2), day(3), day(4, 12, "Walk"), day(5, 12, "Walk"), day(6, 12, "Walk")]);
    expect(new Set(moved.map(({ uid }) => uid)).size).toBe(2);
    expect(timesOf(edit([FIVE], "2026-11-04T10:00", "following", null))).toEqual([day(2), day(3)]);
  });

  test("all of it, by the one in hand: what of it was changed keeps its own", () => {
    const one = edit([FIVE], "2026-11-03T10:00", "one", { start: "2026-11-03T15:00", title: "Late" });
    const all = edit(one, "2026-11-04T10:00", "all", { ...NOON, title: "Walk" });
    expect(timesOf(all)).toEqual([
      day(2, 12, "Walk"),
      day(3, 15, "Late"),
      day(4, 12, "Walk"),
      day(5, 12, "Walk"),
      day(6, 12, "Walk"),
    ]);
    expect(timesOf(edit(one, "2026-11-02T10:00", "all", null))).toEqual([]);
  });

  test("days of the week go along when a series is moved to others", () => {
    const weekly = eventOf({ rule: "FREQ=WEEKLY;COUNT=4;BYDAY=MO,TH" });
    expect(timesOf(edit([weekly], "2026-11-05T10:00", "all", { start: "2026-11-06T10:00" }))).toEqual(
      ["2026-11-03", "2026-11-06", "2026-11-10", "2026-11-13"].map((text) => `${text} 10:00 Round`),
    );
    const monthly = eventOf({ rule: "FREQ=MONTHLY;COUNT=2;BYMONTHDAY=2" });
    expect(timesOf(edit([monthly], "2026-11-02T10:00", "all", { start: "2026-11-05T10:00" }))).toEqual(
      ["2026-11-05", "2026-12-05"].map((text) => `${text} 10:00 Round`),
    );
  });

  test("once only: what is left is the one in hand", () => {
    const one = edit([FIVE], "2026-11-03T10:00", "one", { title: "Late" });
    expect(timesOf(edit(one, "2026-11-04T10:00", "all", { rule: null, start: "2026-11-04T10:00" }))).toEqual([day(2)]);
  });

  test("what changes nothing is no edit", () => {
    for (const scope of ["one", "all", "following"] as const)
      expect(editEvent({ key: 0, event: FIVE, own: [] }, "2026-11-02T10:00", scope, { title: "Round" }, "o")).toEqual(
        [],
      );
  });

  test("whatever of it is deleted is gone, and nothing else is", () => {
    const rule = fc.constantFrom(
      "FREQ=DAILY;COUNT=8",
      "FREQ=DAILY;UNTIL=20261112T100000",
      "FREQ=WEEKLY;COUNT=6;BYDAY=MO,WE,SA",
    );
    fc.assert(
      fc.property(rule, fc.nat(20), fc.constantFrom("one" as const, "following" as const), (text, pick, scope) => {
        const event = eventOf({ rule: text, except: ["2026-11-04T10:00"], also: ["2026-11-05T17:00"] });
        const before = timesOf([event]);
        const { list } = occurrences(event, YEAR, ZONE);
        const at = list[pick % list.length]!;
        const gone = before.filter((line) => {
          const time = `${shown(at.start)} Round`;
          return scope === "one" ? line === time : line >= time;
        });
        expect(timesOf(edit([event], at.at, scope, null))).toEqual(before.filter((line) => !gone.includes(line)));
        // What follows goes on as a series of its own, at the same times.
        expect(timesOf(edit([event], at.at, "following", { note: "x" }))).toEqual(before);
      }),
    );
  });
});

describe("rules as they are written", () => {
  test.each([
    ["FREQ=DAILY", null],
    ["FREQ=WEEKLY;BYDAY=MO,-1FR;WKST=SU", null],
    ["BYDAY=MO", "it says not how often (FREQ)"],
    ["FREQ=DAILY;FREQ=DAILY", "FREQ stands in it twice"],
    ["FREQ=DAILY;BYHOUR=24", "BYHOUR=24 is out of its range"],
    ["FREQ=DAILY;BYMONTHDAY=0", "BYMONTHDAY=0 is out of its range"],
    ["FREQ=DAILY;BYHOUR=0", null],
    ["FREQ=DAILY;BYDAY=XX", "BYDAY=XX is no weekday"],
    ["FREQ=DAILY;WKST=1MO", "WKST=1MO is no weekday"],
    ["FREQ=DAILY;INTERVAL=0", "INTERVAL=0 is no count"],
    ["FREQ=DAILY;UNTIL=soon", "UNTIL=soon is no time"],
    ["FREQ=DAILY;COUNT=1;UNTIL=20261127", "it ends twice: by COUNT and by UNTIL"],
    ["FREQ=DAILY;EVERY=1", '"EVERY=1" is no part of a recurrence rule'],
  ])("%s", (rule, trouble) => {
    expect(troubleOf(rule)).toBe(trouble);
  });
});
