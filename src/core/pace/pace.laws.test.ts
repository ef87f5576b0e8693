import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  addWaits,
  AGES,
  backlogs,
  byDay,
  byHand,
  BY_KEY,
  byWeek,
  forecast,
  mondayOf,
  paceNeeded,
  saved,
  startOf,
  stepOf,
  usualWeek,
  waitWithin,
  weekdayOf,
  type Stays,
} from ".";

const DAY = 20_785; // 2026-11-28, a Saturday
const near = fc.integer({ min: DAY - 120, max: DAY + 40 });
const stays: fc.Arbitrary<Stays[]> = fc.array(
  fc
    .record({ came: near, stayed: fc.option(fc.integer({ min: 0, max: 150 })), count: fc.integer({ min: 1, max: 5 }) })
    .map(({ came, stayed, count }) => ({ came, left: stayed === null ? null : came + stayed, count })),
  { maxLength: 40 },
);

/** Day by day and message by message. */
const counted = (all: readonly Stays[], day: number, ages: readonly number[]) =>
  ages.map((age, i) =>
    all
      .filter(({ came, left }) => came <= day && (left === null || left > day))
      .filter(({ came }) => day - came >= age && !(ages[i + 1] !== undefined && day - came >= ages[i + 1]!))
      .reduce((sum, { count }) => sum + count, 0),
  );

describe("the backlog of a day", () => {
  test("is what had come and was not decided at its end, each in the layer of its age", () => {
    fc.assert(
      fc.property(stays, near, fc.integer({ min: 0, max: 60 }), (all, from, length) => {
        const days = backlogs(all, from, from + length);
        expect(days.map(({ day }) => day)).toEqual(Array.from({ length: length + 1 }, (_, i) => from + i));
        for (const { day, total, layers } of days) {
          const wanted = counted(all, day, AGES);
          expect(layers).toEqual(wanted);
          expect(total).toBe(wanted.reduce((sum, n) => sum + n, 0));
        }
      }),
    );
  });

  test("is the same whether stays are counted one by one or taken back", () => {
    fc.assert(
      fc.property(stays, stays, (kept, undone) => {
        const back = undone.map((one) => ({ ...one, count: -one.count }));
        expect(backlogs([...kept, ...undone, ...back], DAY - 30, DAY)).toEqual(backlogs(kept, DAY - 30, DAY));
      }),
    );
  });

  test("what came and went on one day never was one; what ages goes from layer to layer", () => {
    expect(backlogs([{ came: DAY, left: DAY, count: 9 }], DAY, DAY)[0]!.total).toBe(0);
    const layers = backlogs([{ came: DAY, left: DAY + 91, count: 2 }], DAY, DAY + 91).map((one) => one.layers);
    expect(layers[0]).toEqual([2, 0, 0, 0, 0]);
    expect(layers[1]).toEqual([0, 2, 0, 0, 0]);
    expect(layers[6]).toEqual([0, 2, 0, 0, 0]);
    expect(layers[7]).toEqual([0, 0, 2, 0, 0]);
    expect(layers[30]).toEqual([0, 0, 0, 2, 0]);
    expect(layers[90]).toEqual([0, 0, 0, 0, 2]);
    expect(layers[91]).toEqual([0, 0, 0, 0, 0]);
    expect(backlogs([], DAY, DAY - 1)).toEqual([]);
  });
});

describe("what comes and goes", () => {
  const hours = fc.array(
    fc.record({ day: near, hour: fc.integer({ min: 0, max: 23 }), count: fc.integer({ min: 1, max: 9 }) }),
    { maxLength: 60 },
  );
  const weekday = (day: number) => (new Date(day * 86_400_000).getUTCDay() + 6) % 7;

  test("a day's weekday is the calendar's, also before 1970", () => {
    fc.assert(
      fc.property(fc.integer({ min: -50_000, max: 50_000 }), (day) => {
        expect(weekdayOf(day)).toBe(weekday(day));
        expect(weekday(mondayOf(day))).toBe(0);
        expect(day - mondayOf(day)).toBe(weekday(day));
      }),
    );
  });

  test("days and weeks hold all of their span and nothing else", () => {
    fc.assert(
      fc.property(hours, near, fc.integer({ min: 0, max: 60 }), (counts, from, length) => {
        const to = from + length;
        const days = byDay(counts, from, to);
        for (let day = from; day <= to; day++)
          expect(days[day - from]).toBe(
            counts.filter((one) => one.day === day).reduce((sum, { count }) => sum + count, 0),
          );
        const weeks = byWeek(counts, from, to);
        expect(weeks.reduce((sum, { days: n }) => sum + n, 0)).toBe(length + 1);
        for (const { week, count } of weeks)
          expect(count).toBe(
            counts
              .filter(({ day }) => day >= from && day <= to && day >= week && day < week + 7)
              .reduce((sum, one) => sum + one.count, 0),
          );
      }),
    );
  });

  test("a usual week is the mean of its weekdays, however many of each there are", () => {
    const monday = mondayOf(DAY);
    const counts = [
      { day: monday, hour: 9, count: 4 },
      { day: monday + 7, hour: 9, count: 8 },
      { day: monday + 1, hour: 23, count: 5 },
      { day: monday + 14, hour: 0, count: 99 },
    ];
    const week = usualWeek(counts, monday, monday + 8);
    expect(week.map((one) => one.length)).toEqual(Array(7).fill(24));
    expect(week[0]![9]).toBe(6);
    expect(week[1]![23]).toBe(2.5);
    expect(week.flat().reduce((sum, n) => sum + n, 0)).toBe(8.5);
    expect(usualWeek(counts, monday + 2, monday + 3)[0]![9]).toBe(0);
  });
});

describe("how long it takes until something is decided", () => {
  const ms = fc.integer({ min: 0, max: 2 * 365 * 86_400_000 });
  test("a step begins where it says, and holds what is not less", () => {
    fc.assert(
      fc.property(ms, (time) => {
        const step = stepOf(time);
        expect(startOf(step)).toBeLessThanOrEqual(time * (1 + 1e-8));
        expect(startOf(step + 1)).toBeGreaterThan(time);
      }),
    );
    for (let step = 0; step <= 165; step++) expect(stepOf(startOf(step))).toBe(step);
    expect([stepOf(0), stepOf(59_999), stepOf(60_000), stepOf(NaN), stepOf(-5), stepOf(Infinity)]).toEqual([
      0, 0, 1, 0, 0, 165,
    ]);
    expect(startOf(9)).toBe(120_000);
  });

  test("shares are those of the times themselves, but for a step", () => {
    fc.assert(
      fc.property(fc.array(ms, { minLength: 1, maxLength: 80 }), fc.constantFrom(0.5, 0.9, 1), (times, share) => {
        let waits: ReadonlyMap<number, number> = new Map();
        for (const time of times) waits = addWaits(waits, new Map([[stepOf(time), 1]]));
        const sorted = [...times].sort((a, b) => a - b);
        const exact = sorted[Math.max(0, Math.ceil(share * times.length) - 1)]!;
        const told = waitWithin(waits, share)!;
        expect(told).toBeGreaterThanOrEqual(startOf(stepOf(exact)));
        expect(told).toBeLessThanOrEqual(startOf(stepOf(exact) + 1));
      }),
    );
    expect(waitWithin(new Map(), 0.5)).toBeNull();
    // Half of them in a step that goes from one minute to two to the eighth of two.
    expect(waitWithin(new Map([[1, 2]]), 0.5)).toBeCloseTo(60_000 * (1 + 2 ** (1 / 8)) * 0.5, 6);
  });

  test("what is taken away again was never there", () => {
    const some = fc.dictionary(fc.integer({ min: 0, max: 165 }).map(String), fc.integer({ min: 1, max: 9 }));
    fc.assert(
      fc.property(some, some, (a, b) => {
        const [one, other] = [a, b].map((from) => new Map(Object.entries(from).map(([k, n]) => [Number(k), n])));
        expect([...addWaits(addWaits(one!, other!), other!, -1)].sort()).toEqual([...one!].sort());
      }),
    );
  });
});

describe("how long a backlog will take", () => {
  const even = (n: number, count = 14) => Array<number>(count).fill(n);
  test("with days that are all alike it is a division, and there is no doubt", () => {
    expect(forecast(even(40), even(50), 95)).toEqual({ gain: 10, empty: { soonest: 10, likely: 10, latest: 10 } });
    expect(forecast(even(40), even(50), 100)!.empty.likely).toBe(10);
    expect(forecast(even(40), even(50), 101)!.empty.likely).toBe(11);
    expect(forecast(even(40), even(40), 5)!.empty).toEqual({ soonest: null, likely: null, latest: null });
    expect(forecast(even(40), even(30), 0)!.empty).toEqual({ soonest: 0, likely: 0, latest: 0 });
    expect(paceNeeded(even(40), 100, 10)).toEqual({ likely: 50, atMost: 50 });
  });

  test("days that differ leave doubt by their deviation", () => {
    const arrivals = [0, 20, 0, 20, 0, 20, 0, 20];
    // Eight squares of 10 over seven: 10.69; 1.2816 of it, over the root of four days.
    expect(paceNeeded(arrivals, 0, 4)).toEqual({ likely: 10, atMost: expect.closeTo(16.85, 2) as number });
  });

  test("what is gained on average and by luck is worked out by hand", () => {
    const tens = even(10, 8);
    // Squares of ten over seven days, 1.2816 deviations: a luck of 13.70 a day. As much comes as goes: (100 / 13.70)².
    const level = forecast(tens, [20, 0, 20, 0, 20, 0, 20, 0], 100)!;
    expect(level).toEqual({ gain: 0, empty: { soonest: 54, likely: null, latest: null } });
    // Ten a day more go: 10 t ± 13.70 √t = 100.
    const faster = forecast(tens, [30, 10, 30, 10, 30, 10, 30, 10], 100)!;
    expect(faster).toEqual({ gain: 10, empty: { soonest: 7, likely: 10, latest: 16 } });
  });

  test("of too few days nothing is told, and of other days neither", () => {
    expect(forecast(even(4, 6), even(5, 6), 10)).toBeNull();
    expect(forecast(even(4, 7), even(5, 7), 10)).not.toBeNull();
    expect(paceNeeded(even(4, 6), 10, 3)).toBeNull();
    expect(paceNeeded(even(4), 10, 0)).toBeNull();
    expect(() => forecast(even(4, 7), even(5, 8), 10)).toThrow(RangeError);
  });

  const counts = fc.array(fc.integer({ min: 0, max: 120 }), { minLength: 7, maxLength: 30 });
  const past = counts.chain((arrivals) =>
    fc.tuple(
      fc.constant(arrivals),
      fc.array(fc.integer({ min: 0, max: 120 }), { minLength: arrivals.length, maxLength: arrivals.length }),
    ),
  );
  const late = (days: number | null) => days ?? Infinity;
  test("the range holds what is likely, and a larger backlog is never empty sooner", () => {
    fc.assert(
      fc.property(
        past,
        fc.integer({ min: 0, max: 5000 }),
        fc.integer({ min: 0, max: 500 }),
        ([a, d], backlog, more) => {
          const one = forecast(a, d, backlog)!.empty;
          const other = forecast(a, d, backlog + more)!.empty;
          expect(late(one.soonest)).toBeLessThanOrEqual(late(one.likely));
          expect(late(one.likely)).toBeLessThanOrEqual(late(one.latest));
          for (const key of ["soonest", "likely", "latest"] as const)
            expect(late(one[key])).toBeLessThanOrEqual(late(other[key]));
        },
      ),
    );
  });

  test("of days drawn from the past ones, about four fifths are empty within it", () => {
    // A generator of the test's own, the same each time.
    let seed = 7;
    const random = () => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647;
    const [a, d] = [
      even(0, 28).map(() => Math.floor(random() * 60)),
      even(0, 28).map(() => 20 + Math.floor(random() * 60)),
    ];
    const backlog = 600;
    const { soonest, latest } = forecast(a, d, backlog)!.empty;
    let within = 0;
    const TRIES = 4000;
    for (let n = 0; n < TRIES; n++) {
      let [left, days] = [backlog, 0];
      while (left > 0) {
        const at = Math.floor(random() * 28);
        left -= d[at]! - a[at]!;
        days++;
      }
      if (days >= soonest! && days <= latest!) within++;
    }
    expect(within / TRIES).toBeGreaterThan(0.7);
    expect(within / TRIES).toBeLessThan(0.92);
  });

  test("at the pace that is needed nothing is left on the day, and less is needed the later it is", () => {
    fc.assert(
      fc.property(counts, fc.integer({ min: 0, max: 5000 }), fc.integer({ min: 1, max: 60 }), (a, backlog, days) => {
        const { likely, atMost } = paceNeeded(a, backlog, days)!;
        const mean = a.reduce((sum, n) => sum + n, 0) / a.length;
        expect(backlog + (mean - likely) * days).toBeCloseTo(0, 6);
        expect(atMost).toBeGreaterThanOrEqual(likely);
        expect(paceNeeded(a, backlog, days + 1)!.atMost).toBeLessThanOrEqual(atMost + 1e-9);
      }),
    );
  });
});

describe("what a macro saves", () => {
  test("by hand each step is a decision, and pointing at what does it", () => {
    expect(byHand(["archive"])).toEqual({ keys: 1, seconds: 1.35 + 1.1 + 0.28 });
    expect(byHand(["move"]).seconds).toBeCloseTo(1.35 + 2 * 1.38, 9);
    expect(byHand(["note"])).toEqual({ keys: 13, seconds: expect.closeTo(1.35 + 1.38 + 12 * 0.28, 6) as number });
    expect(byHand(["if", "only when", "ask"])).toEqual({ keys: 0, seconds: 0 });
    expect(byHand([])).toEqual({ keys: 0, seconds: 0 });
    expect(BY_KEY.seconds).toBeCloseTo(1.63, 9);
  });

  test("steps add up, and so do messages; a key on many is pressed once", () => {
    expect(saved(["mark read", "archive"], 10, 10)).toEqual({
      keys: 10,
      seconds: expect.closeTo(10 * (5.46 - 1.63), 6) as number,
    });
    expect(saved(["archive"], 300, 1)).toEqual({ keys: 299, seconds: expect.closeTo(300 * 2.73 - 1.63, 6) as number });
    expect(saved(["archive"], 0, 5)).toEqual({ keys: 0, seconds: 0 });
  });
});
