import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { dueIn, groupAt, grouped, nextTime, readRepeat, readTask, repeatText, TASK_GROUPS, type TaskGroup } from ".";

const ZONE = "Europe/Zurich";
/** A Wednesday. */
const NOW = new Date("2026-11-25T10:00:00Z");
const clock = (iso: string | null): string | null =>
  iso === null
    ? null
    : new Intl.DateTimeFormat("sv-SE", { timeZone: ZONE, dateStyle: "short", timeStyle: "short" }).format(
        new Date(iso),
      );
const weekday = (iso: string) =>
  new Intl.DateTimeFormat("en", { timeZone: ZONE, weekday: "short" }).format(new Date(iso));

describe("a task in one line", () => {
  const NOTHING = { due: null, estimate: null, pressing: false, repeat: null };
  test.each<[string, Partial<ReturnType<typeof readTask>> & { title: string }]>([
    [
      "ring the helicopter people fri 10 30m !",
      { title: "ring the helicopter people", due: "2026-11-27 10:00", estimate: 30, pressing: true },
    ],
    ["ring the helicopter people", { title: "ring the helicopter people" }],
    ["beds for 14", { title: "beds for 14" }],
    ["order 30 mattresses", { title: "order 30 mattresses" }],
    ["pay the rope makers 5 dec", { title: "pay the rope makers", due: "2026-12-05 09:00" }],
    ["pay ! tomorrow 17:30 1h30", { title: "pay", due: "2026-11-26 17:30", estimate: 90, pressing: true }],
    ["pay 1.5h", { title: "pay", estimate: 90 }],
    ["pay 45 min", { title: "pay 45 min" }],
    ["pay 45min next mon", { title: "pay", due: "2026-11-30 09:00", estimate: 45 }],
    ["pay +3d", { title: "pay", due: "2026-11-28 09:00" }],
    ["pay in 2 weeks at 8", { title: "pay", due: "2026-12-09 08:00" }],
    ["pay 2027-01-04 8:15", { title: "pay", due: "2027-01-04 08:15" }],
    ["check the stove every week", { title: "check the stove", due: "2026-11-26 09:00", repeat: "1 week" }],
    [
      "check the stove every fri 10 !",
      { title: "check the stove", due: "2026-11-27 10:00", repeat: "1 week", pressing: true },
    ],
    ["check it every 2 months 3 jan", { title: "check it", due: "2027-01-03 09:00", repeat: "2 month" }],
    ["check it 3 jan every 2 months", { title: "check it", due: "2027-01-03 09:00", repeat: "2 month" }],
    ["check it every workday", { title: "check it", repeat: "1 workday", due: "2026-11-26 09:00" }],
    ["check it every 0 weeks", { title: "check it every 0 weeks" }],
    ["say it every time", { title: "say it every time" }],
    ["money monday", { title: "money", due: "2026-11-30 09:00" }],
    ["monday", { title: "monday" }],
    ['write "tomorrow 9" 30m', { title: "write tomorrow 9", estimate: 30 }],
    ['"30m"', { title: "30m" }],
    ["pay 0m 31 feb", { title: "pay 0m 31 feb" }],
    ["  two   blanks  fri ", { title: "two blanks", due: "2026-11-27 09:00" }],
    ["!", { title: "!" }],
    ["fri 10 !", { title: "fri 10", pressing: true }],
    ["", { title: "" }],
  ])("%j", (line, meant) => {
    const { due, ...read } = readTask(line, NOW, ZONE);
    expect({ ...read, due: clock(due) }).toEqual({
      ...NOTHING,
      ...meant,
      ...(line === "fri 10 !" ? { title: "fri 10" } : {}),
    });
  });

  test("whatever is written, something is left to be done", () => {
    const word = fc.constantFrom(
      "pay",
      "fri",
      "10",
      "30m",
      "!",
      "every",
      "week",
      "2",
      '"a',
      'b"',
      "tomorrow",
      "in",
      "5",
      "dec",
    );
    fc.assert(
      fc.property(fc.array(word, { minLength: 1, maxLength: 8 }), (words) => {
        const { title, estimate } = readTask(words.join(" "), NOW, ZONE);
        expect(title).not.toBe("");
        expect(estimate === null || estimate >= 1).toBe(true);
      }),
    );
  });
});

describe("what comes again", () => {
  test.each([
    ["2026-11-24T09:00:00Z", "1 day", "2026-11-26 10:00"],
    ["2026-11-30T09:00:00Z", "1 day", "2026-12-01 10:00"],
    ["2026-11-27T09:00:00Z", "1 workday", "2026-11-30 10:00"],
    ["2026-11-20T09:00:00Z", "2 week", "2026-12-04 10:00"],
    ["2026-11-01T09:00:00Z", "1 week", "2026-11-29 10:00"],
    ["2027-01-31T09:00:00Z", "1 month", "2027-02-28 10:00"],
    ["2024-02-29T09:00:00Z", "1 year", "2027-02-28 10:00"],
    // The clock on the wall says the same before and after it changes.
    ["2026-10-24T07:00:00Z", "5 week", "2026-11-28 09:00"],
    ["2027-03-27T08:00:00Z", "1 day", "2027-03-28 09:00"],
  ])("after %s, every %s", (due, repeat, next) => {
    expect(clock(nextTime(due, repeat, NOW, ZONE).due)).toBe(next);
  });

  test("is after now and after it was, at the same time by the wall, and no sooner than it may", () => {
    const times = fc.date({ min: new Date("2005-01-01"), max: new Date("2030-01-01"), noInvalidDate: true });
    fc.assert(
      fc.property(
        times,
        fc.integer({ min: 1, max: 12 }),
        fc.constantFrom("day", "workday", "week", "month", "year"),
        (at, every, unit) => {
          const due = at.toISOString();
          const next = nextTime(due, `${every} ${unit}`, NOW, ZONE).due;
          expect(Date.parse(next)).toBeGreaterThan(Math.max(NOW.getTime(), at.getTime()));
          // In spring an hour is missing: what is due in it is due after it.
          expect([0, 60]).toContain(Math.abs(minuteOf(next) - minuteOf(due)));
          if (unit === "workday") expect(["Sat", "Sun"]).not.toContain(weekday(next));
          if (unit === "week") expect(weekday(next)).toBe(weekday(due));
          const longest = { day: 1.1, workday: 4.1, week: 7.1, month: 31.1, year: 366.1 }[unit];
          expect(Date.parse(next) - Math.max(NOW.getTime(), at.getTime())).toBeLessThan(every * longest * 86_400_000);
        },
      ),
    );
  });
  const minuteOf = (iso: string) => {
    const [hour, minute] = clock(iso)!.slice(-5).split(":").map(Number);
    return hour! * 60 + minute!;
  };

  test("the 31st is the last day of months that have none, and the 31st again", () => {
    const days = (due: string, repeat: string, count: number) => {
      const out: string[] = [];
      for (let next = { due, repeat }; out.length < count; out.push(`${clock(next.due)!.slice(0, 10)} ${next.repeat}`))
        next = nextTime(next.due, next.repeat, NOW, ZONE);
      return out;
    };
    expect(days("2026-12-31T09:00:00Z", "1 month", 5)).toEqual([
      "2027-01-31 1 month",
      "2027-02-28 1 month on 31",
      "2027-03-31 1 month",
      "2027-04-30 1 month on 31",
      "2027-05-31 1 month",
    ]);
    expect(days("2028-02-29T09:00:00Z", "1 year", 4).map((one) => one.slice(0, 10))).toEqual([
      "2029-02-28",
      "2030-02-28",
      "2031-02-28",
      "2032-02-29",
    ]);
    // The 28th is meant where it was never another day, and where it was put there by hand.
    expect(days("2027-02-28T09:00:00Z", "1 month", 1)).toEqual(["2027-03-28 1 month"]);
    expect(days("2027-02-20T09:00:00Z", "1 month on 31", 1)).toEqual(["2027-03-20 1 month"]);
  });

  test("is said in words, and nothing else is read", () => {
    expect(["1 day", "2 week", "1 month on 31"].map(repeatText)).toEqual(["every day", "every 2 weeks", "every month"]);
    for (const wrong of ["0 day", "1 hour", "100 day", "2 weeks", "weekly", "1 day on 31", "1 month on 28", ""])
      expect(readRepeat(wrong)).toBeNull();
    expect(() => nextTime("2026-11-24T09:00:00Z", "weekly", NOW, ZONE)).toThrow(RangeError);
  });
});

describe("groups", () => {
  const task = (id: number, due: string | null, more = {}) => ({
    id,
    due,
    done: false,
    pressing: false,
    waiting: false,
    ...more,
  });
  test("by when it is due, by the clock on the wall", () => {
    const groups = grouped(
      [
        task(1, "2026-11-25T21:00:00Z"),
        task(2, "2026-11-25T23:00:00Z"),
        task(3, "2026-11-29T22:59:00Z"),
        task(4, "2026-11-29T23:00:00Z"),
        task(5, "2026-11-25T09:59:00Z"),
        task(6, null),
        task(7, "2020-01-01T00:00:00Z", { waiting: true }),
        task(8, "2020-01-01T00:00:00Z", { done: true, waiting: true }),
        task(9, "2026-11-25T22:59:00Z", { pressing: true }),
        task(10, "2026-11-25T22:59:00Z"),
        task(11, NOW.toISOString()),
      ],
      NOW,
      ZONE,
    );
    expect(groups.map(({ group, tasks }) => [group, tasks.map(({ id }) => id)])).toEqual([
      ["overdue", [5]],
      ["today", [9, 11, 1, 10]],
      ["week", [2, 3]],
      ["later", [4]],
      ["undated", [6]],
      ["waiting", [7]],
      ["done", [8]],
    ]);
  });

  test("what is put into a group is in it, at its time of day where that can be", () => {
    const dues = fc.option(
      fc
        .date({ min: new Date("2020-01-01"), max: new Date("2030-01-01"), noInvalidDate: true })
        .map((d) => d.toISOString()),
    );
    const nows = fc.date({ min: new Date("2026-03-20"), max: new Date("2026-11-20"), noInvalidDate: true });
    fc.assert(
      fc.property(dues, nows, fc.constantFrom<TaskGroup>("today", "week", "later", "undated"), (due, now, group) => {
        const put = dueIn(group, due, now, ZONE);
        // A Sunday has no more of its week; the last minute of a day has no more of the day.
        if (put === undefined) expect([group, weekday(now.toISOString())]).toEqual(["week", "Sun"]);
        else if (clock(now.toISOString())!.slice(-5) !== "23:59")
          expect(groupAt(now, ZONE)({ due: put, done: false, pressing: false, waiting: false })).toBe(group);
      }),
    );
    expect(clock(dueIn("later", "2026-11-25T15:30:00Z", NOW, ZONE)!)).toBe("2026-11-30 16:30");
    expect(clock(dueIn("week", null, NOW, ZONE)!)).toBe("2026-11-27 09:00");
    expect(dueIn("overdue", null, NOW, ZONE)).toBeUndefined();
    expect(dueIn("waiting", "2026-11-25T15:30:00Z", NOW, ZONE)).toBe("2026-11-25T15:30:00Z");
    expect(TASK_GROUPS).toHaveLength(7);
  });
});
