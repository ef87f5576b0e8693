import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { lanesOf, readEvent, ruleText, type EventLine } from ".";

const ZONE = "Europe/Zurich";
/** A Friday. */
const NOW = new Date("2026-11-27T08:00:00Z");

describe("an event in one line", () => {
  const read = (line: string) => readEvent(line, "2026-12-03", NOW, ZONE);
  test.each<[string, Partial<EventLine>]>([
    [
      "inspection tue 10-12 @ Tarn Hut",
      { title: "inspection", start: "2026-12-01T10:00", length: 7200, place: "Tarn Hut" },
    ],
    ["inspection tue 9:30-11.15", { title: "inspection", start: "2026-12-01T09:30", length: 6300 }],
    ["inspection 10-12", { title: "inspection", start: "2026-12-03T10:00", length: 7200 }],
    ["inspection 14:30", { title: "inspection", start: "2026-12-03T14:30", length: 3600 }],
    ["inspection 14:30 45m", { title: "inspection", start: "2026-12-03T14:30", length: 2700 }],
    ["inspection tomorrow 8", { title: "inspection", start: "2026-11-28T08:00" }],
    ["inspection fri 10 90m", { title: "inspection", start: "2026-12-04T10:00", length: 5400 }],
    ["stocktaking 5 dec all day", { title: "stocktaking", start: "2026-12-05", length: 86_400 }],
    ["holiday all day", { title: "holiday", start: "2026-12-03", length: 86_400 }],
    ["round mon 9 every workday", { title: "round", rule: "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR" }],
    ["round mon 9 every 2 weeks", { title: "round", rule: "FREQ=WEEKLY;INTERVAL=2", start: "2026-11-30T09:00" }],
    ["beds for 14", { title: "beds for 14", start: "2026-12-03T09:00", rule: null, place: "" }],
    ["12-10", { title: "12-10" }],
  ])("%s", (line, expected) => {
    expect(read(line)).toMatchObject(expected);
  });
});

test.each([
  ["FREQ=DAILY", "every day"],
  ["FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR", "every workday"],
  ["FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,WE", "every 2 weeks on Mon and Wed"],
  ["FREQ=MONTHLY;BYDAY=-1FR;COUNT=5", "every month on the last Fri, 5 times"],
  ["FREQ=MONTHLY;BYMONTHDAY=1,15", "every month on the 1. and 15."],
  ["FREQ=YEARLY;UNTIL=20270301T120000", "every year, until <2027-03-01>"],
  ["FREQ=YEARLY;BYWEEKNO=20", "FREQ=YEARLY;BYWEEKNO=20"],
  ["FREQ=DAILY\nFREQ=WEEKLY", "FREQ=DAILY\nFREQ=WEEKLY"],
])("%s is said as %s", (rule, text) => {
  expect(ruleText(rule, (day) => `<${day}>`)).toBe(text);
});

test("what is at the same time stands beside one another, and no wider than it must", () => {
  const quarter = 15 * 60_000;
  const span = fc.tuple(fc.nat(20), fc.integer({ min: 1, max: 8 })).map(([from, length]) => {
    return { start: from * quarter, end: (from + length) * quarter };
  });
  fc.assert(
    fc.property(fc.array(span, { maxLength: 12 }), (spans) => {
      const lanes = lanesOf(spans);
      expect(lanes).toHaveLength(spans.length);
      spans.forEach((a, i) => {
        expect(lanes[i]!.lane).toBeLessThan(lanes[i]!.lanes);
        // As many as are there at once at some time while it lasts, or next to what is.
        spans.forEach((b, j) => {
          if (i === j || a.start >= b.end || b.start >= a.end) return;
          expect(lanes[i]!.lane).not.toBe(lanes[j]!.lane);
          expect(lanes[i]!.lanes).toBe(lanes[j]!.lanes);
        });
        const most = Math.max(
          ...spans.map(({ start }) => spans.filter((one) => one.start <= start && start < one.end).length),
        );
        expect(lanes[i]!.lanes).toBeLessThanOrEqual(most);
      });
    }),
  );
});
