import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { DAYS, opensAt, opensTogether, PARTS_A_DAY, partsOf, weekOf, weekText, type Week } from ".";

/** What a clock in the zone shows, by the platform's own formatting: the tests' own way to tell. */
function clock(zone: string, at: Date): { day: number; minute: number } {
  const parts = new Intl.DateTimeFormat("en-GB", {
    timeZone: zone,
    weekday: "short",
    hour: "2-digit",
    minute: "2-digit",
    hourCycle: "h23",
  }).formatToParts(at);
  const of = (type: string) => parts.find((part) => part.type === type)!.value;
  return {
    day: ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"].indexOf(of("weekday")),
    minute: Number(of("hour")) * 60 + Number(of("minute")),
  };
}
const isOpen = (week: Week, zone: string, at: Date): boolean => {
  const { day, minute } = clock(zone, at);
  return week.some((stretch) => stretch.day === day && stretch.from <= minute && minute < stretch.to);
};

const arbParts = fc.array(fc.boolean(), { minLength: DAYS * PARTS_A_DAY, maxLength: DAYS * PARTS_A_DAY });
const arbWeek = fc
  .array(fc.tuple(fc.nat(6), fc.nat(46), fc.integer({ min: 1, max: 6 })), { maxLength: 5 })
  .map((some) => some.map(([day, from, parts]) => ({ day, from: from * 30, to: Math.min(48, from + parts) * 30 })));
const arbZone = fc.constantFrom("Europe/Zurich", "America/St_Johns", "Pacific/Auckland", "UTC");
// Minutes of a year with both changes of clocks.
const arbNow = fc.nat(366 * 24 * 60).map((minute) => new Date(Date.UTC(2026, 0, 1, 0, minute)));

describe("hours of the week", () => {
  test("are stretches and parts alike", () => {
    fc.assert(
      fc.property(arbParts, (parts) => {
        expect(partsOf(weekOf(parts))).toEqual(parts);
      }),
    );
    fc.assert(
      fc.property(arbParts, (parts) => {
        for (const { from, to } of weekOf(parts)) expect(from).toBeLessThan(to);
      }),
    );
  });

  test("open now or at the first minute that is open, looked for minute by minute", () => {
    fc.assert(
      fc.property(arbWeek, arbZone, arbNow, (week, zone, now) => {
        const opens = opensAt(week, zone, now);
        if (week.length === 0) {
          expect(opens).toBeNull();
          return;
        }
        expect(opens).not.toBeNull();
        // In a night that is an hour shorter a stretch may be skipped whole: it is let in at the jump.
        if (!isOpen(week, zone, opens!)) {
          const before = new Date(opens!.getTime() - 3 * 3_600_000);
          const jump = (clock(zone, opens!).minute - clock(zone, before).minute + 1440) % 1440;
          expect(jump).not.toBe(180);
          return;
        }
        const minutes = (opens!.getTime() - now.getTime()) / 60_000;
        expect(minutes).toBeLessThanOrEqual(8 * 24 * 60);
        for (let minute = 0; minute < minutes; minute += 10)
          expect(isOpen(week, zone, new Date(now.getTime() + minute * 60_000))).toBe(false);
      }),
      { numRuns: 60 },
    );
  });

  test("of several open where all do, or never", () => {
    const day = (from: number, to: number, ...days: number[]): Week =>
      days.map((one) => ({ day: one, from: from * 60, to: to * 60 }));
    const now = new Date("2026-11-27T10:00:00Z"); // a Friday
    const at = (...weeks: Week[]) => opensTogether(weeks, "UTC", now)?.toISOString() ?? null;
    expect(at()).toBe("2026-11-27T10:00:00.000Z");
    expect(at(day(9, 11, 4))).toBe("2026-11-27T10:00:00.000Z");
    expect(at(day(9, 10, 4))).toBe("2026-12-04T09:00:00.000Z");
    expect(at(day(12, 14, 0, 4), day(13, 15, 0))).toBe("2026-11-30T13:00:00.000Z");
    expect(at(day(12, 13, 4), day(13, 14, 4))).toBeNull();
    expect(at(day(9, 11, 4), [])).toBeNull();
  });

  test("keep to the clock on the wall when it is put forward or back", () => {
    const week: Week = [{ day: 6, from: 8 * 60, to: 9 * 60 }];
    const at = (now: string) => opensAt(week, "Europe/Zurich", new Date(now))!.toISOString();
    expect(at("2026-03-28T12:00:00Z")).toBe("2026-03-29T06:00:00.000Z");
    expect(at("2026-10-24T12:00:00Z")).toBe("2026-10-25T07:00:00.000Z");
  });

  test.each<[string, Week]>([
    ["never", []],
    [
      "Mon–Fri 08:00–09:00, 13:00–13:30; Sun 00:00–24:00",
      [
        ...[0, 1, 2, 3, 4].flatMap((day) => [
          { day, from: 480, to: 540 },
          { day, from: 780, to: 810 },
        ]),
        { day: 6, from: 0, to: 1440 },
      ],
    ],
    [
      "Tue 10:00–12:00",
      [
        { day: 1, from: 600, to: 660 },
        { day: 1, from: 660, to: 720 },
      ],
    ],
  ])("are said as %s", (text, week) => expect(weekText(week)).toBe(text));
});
