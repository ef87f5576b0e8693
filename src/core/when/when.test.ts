import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { instantOf, readWhen, wallIn } from ".";

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
