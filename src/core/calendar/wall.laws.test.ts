import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { instantAt, wallAt } from "./wall";

/** Two that change in other hours, one by half an hour, one that never does, one that left out a whole day. */
const ZONES = ["Europe/Zurich", "America/New_York", "Australia/Lord_Howe", "Asia/Kathmandu", "Pacific/Apia"];
const HOUR_MS = 3_600_000;
/** Instants at which a clock of one of them was changed. */
const CHANGES = [
  "2026-03-29T01:00Z",
  "2026-10-25T01:00Z",
  "2026-03-08T07:00Z",
  "2026-11-01T06:00Z",
  "2026-04-04T15:00Z",
  "2026-10-03T15:30Z",
  "2011-12-30T10:00Z",
].map((text) => Date.parse(text));

/** What the platform says of it, as a text that is read again. */
const said = (zone: string, at: number): number =>
  Date.parse(`${new Date(at).toLocaleString("sv-SE", { timeZone: zone }).replace(" ", "T")}Z`);

const zone = fc.constantFrom(...ZONES);
const seconds = (from: number, to: number) =>
  fc.integer({ min: Math.floor(from / 1000), max: Math.floor(to / 1000) }).map((s) => s * 1000);
const instant = fc.oneof(
  seconds(Date.parse("1980-01-01"), Date.parse("2060-01-01")),
  fc.constantFrom(...CHANGES).chain((change) => seconds(change - 30 * HOUR_MS, change + 30 * HOUR_MS)),
);

describe("times as clocks show them", () => {
  test("are what the platform says, at any instant, whatever was asked before", () => {
    fc.assert(
      fc.property(zone, instant, (zone, at) => {
        expect(wallAt(zone, at)).toBe(said(zone, at));
      }),
      { numRuns: 2000 },
    );
  });

  test("lead back to the first instant at which clocks show them", () => {
    fc.assert(
      fc.property(zone, instant, (zone, at) => {
        const shown = said(zone, at);
        const found = instantAt(zone, shown);
        expect(said(zone, found)).toBe(shown);
        expect(found).toBeLessThanOrEqual(at);
      }),
      { numRuns: 2000 },
    );
  });

  test.each(CHANGES)("are right in every minute about the change at %s", (change) => {
    for (const zone of ZONES)
      for (let at = change - 90 * 60_000; at <= change + 90 * 60_000; at += 60_000)
        expect(wallAt(zone, at)).toBe(said(zone, at));
  });
});
