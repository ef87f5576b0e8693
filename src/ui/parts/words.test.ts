import { describe, expect, test } from "vitest";
import { ageText, clockText, countText, dateText, dayText, longDayText, plural, sizeText } from "./words";

const MINUTE = 60_000;
const DAY = 24 * 60 * MINUTE;
const ZONE = "Europe/Zurich";
const NOW = new Date("2026-11-24T12:00:00Z");

describe("ages", () => {
  test.each([
    [-5, "0m"],
    [59 * MINUTE, "59m"],
    [60 * MINUTE, "1h"],
    [23.9 * 60 * MINUTE, "23h"],
    [DAY, "1d"],
    [59 * DAY, "59d"],
    [60 * DAY, "8w"],
    [364 * DAY, "52w"],
    [800 * DAY, "2y"],
  ])("%d ms is %s", (ms, text) => expect(ageText(ms)).toBe(text));
});

test("sizes and counts", () => {
  expect([sizeText(12), sizeText(2048), sizeText(5 * 1024 * 1024)]).toEqual(["12 B", "2 kB", "5.0 MB"]);
  expect(countText(1234567)).toBe("1,234,567");
  expect([plural(1, "message"), plural(0, "message"), plural(12_000, "message")]).toEqual([
    "1 message",
    "0 messages",
    "12,000 messages",
  ]);
});

test("dates are where the person is, with the year only where it is another", () => {
  expect(dateText("2026-11-24T23:30:00Z", ZONE, NOW)).toBe("Wed 25 Nov, 00:30");
  expect(dateText("2025-01-02T10:00:00Z", ZONE, NOW)).toContain("2025");
  expect(dayText(Date.parse("2026-11-24T23:30:00Z"), ZONE)).toBe("25 Nov");
  expect(clockText("2026-07-01T06:41:00Z", ZONE)).toBe("08:41");
  expect(longDayText("2026-11-24T12:00:00Z", ZONE)).toBe("Tuesday, 24 November 2026");
  // The same format for another zone is another format.
  expect(clockText("2026-07-01T06:41:00Z", "UTC")).toBe("06:41");
});
