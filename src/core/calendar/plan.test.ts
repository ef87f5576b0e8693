import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { freeIn, hoursIn, offers, offerText, planTasks, type OpenTask, type Taken } from ".";

const ZONE = "Europe/Zurich";
const clock = new Intl.DateTimeFormat("sv-SE", { timeZone: ZONE, dateStyle: "short", timeStyle: "short" });
const shown = (ms: number) => clock.format(new Date(ms));
const WEEK = [0, 1, 2, 3, 4].map((day) => ({ day, from: 9 * 60, to: 17 * 60 }));
/** A Friday, noon in Zurich. */
const NOON = Date.parse("2026-11-27T11:00Z");
const AHEAD = { from: NOON, to: NOON + 14 * 86_400_000 };
const words = (spans: readonly { start: number; end: number }[]) =>
  spans.map(({ start, end }) => `${shown(start)}–${shown(end).slice(11)}`);

describe("free time", () => {
  test("working hours, by the clock on both sides of its change", () => {
    const across = { from: Date.parse("2026-10-23T00:00Z"), to: Date.parse("2026-10-27T00:00Z") };
    expect(words(hoursIn(WEEK, across, ZONE))).toEqual(["2026-10-23 09:00–17:00", "2026-10-26 09:00–17:00"]);
  });

  test("from now on, less what is in it, at full grains", () => {
    const busy = [{ start: NOON + 62 * 60_000, end: NOON + 118 * 60_000 }];
    expect(words(freeIn(WEEK, { from: NOON, to: NOON + 86_400_000 }, ZONE, busy))).toEqual([
      "2026-11-27 12:00–13:00",
      "2026-11-27 14:00–17:00",
    ]);
  });

  test("times to offer: one a day, at full quarters", () => {
    const free = freeIn(WEEK, { ...AHEAD, from: NOON + 5 * 60_000 }, ZONE, []);
    expect(words(offers(free, 45 * 60_000, 3, ZONE))).toEqual([
      "2026-11-27 12:15–13:00",
      "2026-11-30 09:00–09:45",
      "2026-12-01 09:00–09:45",
    ]);
  });
});

test("a time is offered by day, hours and whose clock", () => {
  const span = (from: string, to: string) => ({ start: Date.parse(from), end: Date.parse(to) });
  const now = new Date(NOON);
  expect(offerText(span("2026-12-01T09:00Z", "2026-12-01T10:30Z"), ZONE, now)).toBe(
    "Tuesday 1 December, 10:00 to 11:30, Zurich time",
  );
  // In Zurich the year has begun; and another year is said.
  expect(offerText(span("2026-12-31T23:30Z", "2027-01-01T00:00Z"), ZONE, now)).toBe(
    "Friday 1 January 2027, 00:30 to 01:00, Zurich time",
  );
  expect(offerText(span("2026-12-01T09:00Z", "2026-12-01T10:30Z"), "America/New_York", now)).toBe(
    "Tuesday 1 December, 04:00 to 05:30, New York time",
  );
});

describe("tasks in free time", () => {
  const task = (id: number, parts: Partial<OpenTask> = {}): OpenTask => ({
    id,
    due: null,
    estimate: 60,
    pressing: false,
    waiting: false,
    done: false,
    ...parts,
  });
  const plan = (tasks: readonly OpenTask[], taken: readonly Taken[] = []) => planTasks(tasks, taken, WEEK, AHEAD, ZONE);
  const time = (event: number, of: number | null, from: number, minutes: number): Taken => ({
    event,
    task: of,
    busy: true,
    start: NOON + from * 60_000,
    end: NOON + (from + minutes) * 60_000,
  });
  const moves = (found: ReturnType<typeof plan>) =>
    found.moves.map(({ task: id, before, after }) => [id, words(before), words(after)]);

  test("what is due first goes first, and what has no date last", () => {
    const found = plan([
      task(1),
      task(2, { due: "2026-11-28T08:00:00Z" }),
      task(3, { due: "2026-11-27T13:00:00Z", estimate: null }),
    ]);
    expect(moves(found).sort()).toEqual([
      [1, [], ["2026-11-27 13:30–14:30"]],
      [2, [], ["2026-11-27 12:30–13:30"]],
      [3, [], ["2026-11-27 12:00–12:30"]],
    ]);
  });

  test("what waits or is done has none, and gives back what it had", () => {
    const found = plan([task(1, { waiting: true }), task(2, { done: true })], [time(7, 2, 60, 60)]);
    expect(moves(found)).toEqual([[2, ["2026-11-27 13:00–14:00"], []]]);
  });

  test("time that it has stays, and what is missing of it is added", () => {
    const found = plan([task(1, { estimate: 90 })], [time(7, 1, 60, 60)]);
    expect(moves(found)).toEqual([[1, [], ["2026-11-27 12:00–12:30"]]]);
    expect(plan([task(1)], [time(7, 1, 60, 60)]).moves).toEqual([]);
  });

  test("time that is over was not enough: the task is offered again", () => {
    expect(moves(plan([task(1)], [time(7, 1, -120, 60)]))).toEqual([[1, [], ["2026-11-27 12:00–13:00"]]]);
  });

  test("time that something else came into, or that is past its date, is moved", () => {
    const other = time(8, null, 60, 30);
    expect(moves(plan([task(1)], [time(7, 1, 60, 60), other]))).toEqual([
      [1, ["2026-11-27 13:00–14:00"], ["2026-11-27 12:00–13:00"]],
    ]);
    expect(moves(plan([task(1, { due: "2026-11-27T12:30:00Z" })], [time(7, 1, 180, 60)]))).toEqual([
      [1, ["2026-11-27 15:00–16:00"], ["2026-11-27 12:00–13:00"]],
    ]);
  });

  test("a second proposal has nothing to propose", () => {
    const some = fc.array(
      fc.record({
        due: fc.option(
          fc.integer({ min: -5, max: 90 }).map((hours) => new Date(NOON + hours * 3_600_000).toISOString()),
        ),
        estimate: fc.option(fc.integer({ min: 1, max: 900 })),
        pressing: fc.boolean(),
        waiting: fc.boolean(),
        done: fc.boolean(),
      }),
      { maxLength: 8 },
    );
    const busy = fc.array(fc.tuple(fc.integer({ min: -100, max: 9000 }), fc.integer({ min: 5, max: 300 })), {
      maxLength: 6,
    });
    fc.assert(
      fc.property(some, busy, (parts, spans) => {
        const tasks = parts.map((part, i) => task(i + 1, part));
        const taken = spans.map(([from, minutes], i) => time(1000 + i, i % 2 ? null : (i % 4) + 1, from, minutes));
        const found = plan(tasks, taken);
        const gone = new Set(found.moves.flatMap(({ before }) => before.map(({ event }) => event)));
        let next = 5000;
        const then = [
          ...taken.filter(({ event }) => !gone.has(event)),
          ...found.moves.flatMap(({ task: id, after }) =>
            after.map((span) => ({ ...span, task: id, busy: true, event: next++ })),
          ),
        ];
        expect(plan(tasks, then).moves).toEqual([]);
        // And nothing that was placed is where something else is.
        for (const { after } of found.moves)
          for (const { start, end } of after)
            for (const one of taken) if (!gone.has(one.event)) expect(one.start >= end || one.end <= start).toBe(true);
      }),
      { numRuns: 300 },
    );
  });
});
