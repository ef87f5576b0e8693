import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { instantOf, readWhen, sameDay, wallIn, wallText, weeksOf } from ".";

/** A Tuesday. */
const NOW = new Date("2026-11-24T10:30:00Z");
const ZONE = "Europe/Zurich";
const at = (text: string, zone = ZONE, now = NOW) => {
  const when = readWhen(text, now, zone);
  return when.ok ? when.at.toISOString() : `problem: ${when.problem}`;
};

describe("times as people write them", () => {
  test.each([
    ["tomorrow 9", "2026-11-25T08:00:00.000Z"],
    ["tomorrow", "2026-11-25T08:00:00.000Z"],
    ["today 17:30", "2026-11-24T16:30:00.000Z"],
    ["today at 5pm", "2026-11-24T16:00:00.000Z"],
    ["12am tomorrow", "problem"],
    ["tomorrow 12am", "2026-11-24T23:00:00.000Z"],
    ["+3d", "2026-11-27T08:00:00.000Z"],
    ["+3d 14", "2026-11-27T13:00:00.000Z"],
    ["in 2 weeks", "2026-12-08T08:00:00.000Z"],
    ["+90min", "2026-11-24T12:00:00.000Z"],
    ["+4h", "2026-11-24T14:30:00.000Z"],
    ["+1mo", "2026-12-24T08:00:00.000Z"],
    ["+1y", "2027-11-24T08:00:00.000Z"],
    ["fri", "2026-11-27T08:00:00.000Z"],
    ["tue", "2026-12-01T08:00:00.000Z"],
    ["next mon", "2026-11-30T08:00:00.000Z"],
    ["next friday 10", "2026-12-04T09:00:00.000Z"],
    ["next week", "2026-11-30T08:00:00.000Z"],
    ["2026-12-05", "2026-12-05T08:00:00.000Z"],
    ["2026-12-05 7:15", "2026-12-05T06:15:00.000Z"],
    ["2026-12-05T07:15:00Z", "2026-12-05T07:15:00.000Z"],
    ["2026-12-05T07:15:00+02:00", "2026-12-05T05:15:00.000Z"],
    ["2026-12-05T07:15", "2026-12-05T06:15:00.000Z"],
    ["5 dec", "2026-12-05T08:00:00.000Z"],
    ["5 march", "2027-03-05T08:00:00.000Z"],
    ["29 feb 2028 8", "2028-02-29T07:00:00.000Z"],
    ["9", "2026-11-25T08:00:00.000Z"],
    ["18", "2026-11-24T17:00:00.000Z"],
    ["now", "2026-11-24T10:30:00.000Z"],
  ])("%s", (text, expected) => {
    expect(at(text)).toContain(expected);
  });

  test.each([
    "",
    "soon",
    "31 feb",
    "2026-02-30",
    "25:00",
    "+3x",
    "+999999999d",
    "today 12:60",
    "x".repeat(80),
    "2026-13-40T99:99",
    "next",
    "+3h 9",
  ])("refuses %j and says why", (text) => {
    expect(at(text)).toMatch(/^problem: .{5}/);
  });
});

describe("edges of the calendar", () => {
  const on = (day: string) => new Date(`${day}T10:30:00Z`);
  test.each([
    ["2026-01-31", "+1mo", "2026-02-28"],
    ["2028-01-31", "+1mo", "2028-02-29"],
    ["2026-03-31", "+1mo", "2026-04-30"],
    ["2026-03-30", "+1mo", "2026-04-30"],
    ["2026-12-31", "+2mo", "2027-02-28"],
    ["2026-11-30", "+13mo", "2027-12-30"],
    ["2028-02-29", "+1y", "2029-02-28"],
    ["2026-12-31", "tomorrow", "2027-01-01"],
    ["2026-02-28", "+1d", "2026-03-01"],
    ["2026-11-24", "24 nov", "2026-11-24"],
    ["2026-11-24", "23 nov", "2027-11-23"],
    ["2026-11-24", "25 nov", "2026-11-25"],
    ["2026-11-24", "1 dec", "2026-12-01"],
    ["2026-11-24", "30 oct", "2027-10-30"],
    ["2026-11-23", "mon", "2026-11-30"],
    ["2026-11-23", "tue", "2026-11-24"],
    ["2026-11-29", "mon", "2026-11-30"],
    ["2026-11-29", "next mon", "2026-11-30"],
    ["2026-11-23", "next mon", "2026-11-30"],
    ["2026-11-29", "next week", "2026-11-30"],
    ["2026-11-23", "next week", "2026-11-30"],
    ["2026-11-24", "+3w", "2026-12-15"],
  ])("from %s, %s is %s", (from, text, day) => {
    expect(at(text, ZONE, on(from)).slice(0, 10)).toBe(day);
  });
  test.each([
    ["1am", 0],
    ["12pm", 11],
    ["11:59pm", 22],
    ["0", 23],
    ["23:59", 22],
  ])("tomorrow %s", (time, hourInUtc) => {
    expect(new Date(at(`tomorrow ${time}`)).getUTCHours()).toBe(hourInUtc);
  });
  test.each(["tomorrow 13am", "tomorrow 0pm", "tomorrow 24", "tomorrow 9:60", "to 9", "mo 9"])("refuses %s", (text) => {
    expect(at(text)).toMatch(/^problem/);
  });
  test("a bare time of day that has just come is tomorrow's", () => {
    expect(at("11:30")).toBe("2026-11-25T10:30:00.000Z");
    expect(at("11:31")).toBe("2026-11-24T10:31:00.000Z");
  });
  test("times that no calendar of ours holds are too far away, whatever they are written as", () => {
    for (const far of [
      "+501y",
      "+6100mo",
      "+100000y",
      "+183001d",
      "+4392001h",
      "in 999999999 weeks",
      "0000-01-01",
      "1899-12-31",
      "0001-01-01T00:00:00Z",
    ])
      expect(at(far), far).toBe("problem: that is too far away");
    expect(at("+500y")).toBe("2526-11-24T08:00:00.000Z");
    expect(at("1900-01-02")).toContain("1900-01-02");
    expect(at("9999-12-31")).toContain("9999-12-31");
    expect(at("9999-12-31T23:59:59-23:00")).toBe("problem: that is too far away");
  });
});

describe("zones", () => {
  test("the clock that jumps in spring is read after the jump, the one shown twice in autumn first", () => {
    expect(at("2026-03-29 2:30")).toBe("2026-03-29T01:30:00.000Z");
    expect(at("2026-10-25 2:30")).toBe("2026-10-25T00:30:00.000Z");
  });

  test("an instant and its wall clock belong together, in any zone", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 2_000_000_000 }),
        fc.constantFrom("UTC", "Europe/Zurich", "America/New_York", "Asia/Kathmandu", "Australia/Lord_Howe"),
        (seconds, zone) => {
          const instant = new Date(Math.floor(seconds / 60) * 60_000);
          const wall = wallIn(zone, instant);
          const back = instantOf(zone, wall);
          // Only the repeated hour of autumn may come back as its first showing.
          expect(wallIn(zone, back)).toEqual(wall);
          expect(instant.getTime() - back.getTime()).toBeGreaterThanOrEqual(0);
        },
      ),
    );
  });

  test("a shift by days keeps the time of day over a change of clocks", () => {
    expect(at("+7d 9", ZONE, new Date("2026-10-20T10:00:00Z"))).toBe("2026-10-27T08:00:00.000Z");
  });

  test("an unknown zone is a caller's mistake", () => {
    expect(() => readWhen("tomorrow", NOW, "Nowhere/Land")).toThrow(RangeError);
  });
});

describe("the weeks of a month", () => {
  const at = (year: number, month: number, day: number) => ({ year, month, day, hour: 8, minute: 30 });
  test("begin on Monday and end on Sunday, with the days of the months beside it", () => {
    const december = weeksOf(at(2026, 12, 17)).map((week) => week.map(({ day }) => day).join(" "));
    expect(december).toEqual([
      "30 1 2 3 4 5 6",
      "7 8 9 10 11 12 13",
      "14 15 16 17 18 19 20",
      "21 22 23 24 25 26 27",
      "28 29 30 31 1 2 3",
    ]);
    expect(weeksOf(at(2027, 2, 1))).toHaveLength(4);
    expect(weeksOf(at(2026, 8, 31))).toHaveLength(6);
  });
  test("hold every day of it once, at the same time of day, whatever the month", () => {
    for (let month = 1; month <= 12; month++)
      for (const year of [2024, 2026, 2027]) {
        const days = weeksOf(at(year, month, 15)).flat();
        const own = days.filter((day) => day.month === month);
        const last = new Date(Date.UTC(year, month, 0)).getUTCDate();
        expect(own.map(({ day }) => day)).toEqual(Array.from({ length: last }, (_, i) => i + 1));
        expect(days.length % 7).toBe(0);
        expect(days.every(({ hour, minute }) => hour === 8 && minute === 30)).toBe(true);
      }
  });
  test("a day is written as it is read", () => {
    expect(wallText(at(2026, 3, 4))).toBe("2026-03-04 08:30");
    const read = readWhen(wallText(at(2026, 3, 4)), new Date("2026-03-01T00:00:00Z"), "Europe/Zurich");
    expect(read.ok && read.at.toISOString()).toBe("2026-03-04T07:30:00.000Z");
    expect(sameDay(at(2026, 3, 4), { ...at(2026, 3, 4), hour: 1 })).toBe(true);
    for (const other of [at(2025, 3, 4), at(2026, 4, 4), at(2026, 3, 5)])
      expect(sameDay(at(2026, 3, 4), other)).toBe(false);
  });
});
