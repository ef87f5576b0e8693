import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { amountInText, dateInText, firstNameOf } from ".";

const SENT = Date.parse("2026-11-20T08:00:00Z");

describe("dates in text", () => {
  test.each([
    ["We come on 2026-12-05.", "2026-12-05"],
    ["from the 5th of December on", "2026-12-05"],
    ["Friday 11 December, two nights", "2026-12-11"],
    ["December 5, 2027 would do", "2027-12-05"],
    ["until 5.12.2026 at the latest", "2026-12-05"],
    ["on 3 Feb we leave", "2027-02-03"],
    ["last stayed on 3 May 2024, next on 1 March 2027", "2027-03-01"],
    ["both 12 December and 10 December", "2026-12-12"],
    ["on the 31 November", null],
    ["bed 12 in room 3, 5/6 full", null],
    ["", null],
  ])("%s", (text, day) => expect(dateInText(text, SENT)).toBe(day));
  test("a day that has passed is not the next year's, and one without a year is the nearest", () => {
    const sent = (iso: string) => Date.parse(iso);
    expect(dateInText("we met on 5 October", SENT)).toBeNull();
    expect(dateInText("we met on 5 October, come on 5 March", SENT)).toBe("2027-03-05");
    expect(dateInText("our stay of 28 December", sent("2027-01-04T08:00:00Z"))).toBeNull();
    expect(dateInText("before 3 January", sent("2026-12-30T08:00:00Z"))).toBe("2027-01-03");
    expect(dateInText("on 20 May", SENT)).toBe("2027-05-20");
    expect(dateInText("on 20 June", SENT)).toBeNull();
  });
  test("the day it was sent counts, the day before yesterday does not", () => {
    expect(dateInText("on 2026-11-20", SENT)).toBe("2026-11-20");
    expect(dateInText("on 2026-11-18", SENT)).toBeNull();
  });
});

describe("amounts in text", () => {
  test.each([
    ["the sum of CHF 1'250.00 is due", "CHF 1250.00"],
    ["pay € 45.50 now", "EUR 45.50"],
    ["1.250,00 EUR in all", "EUR 1250.00"],
    ["it costs £12", "GBP 12.00"],
    ["room 12, 3 beds", null],
    ["first USD 5, then EUR 7", "USD 5.00"],
  ])("%s", (text, amount) => expect(amountInText(text)).toBe(amount));
});

describe("first names", () => {
  test.each([
    ["Ines Okafor", "Ines"],
    ["Okafor, Ines", "Ines"],
    ["Dr. Felix Oyster", "Felix"],
    ["Jean-Luc d'Arc", "Jean-Luc"],
    ["3 Peaks Club", null],
    ["", null],
  ])("%s", (name, first) => expect(firstNameOf(name)).toBe(first));
});

test("no text makes any of them fail, and what is found is well formed", () => {
  const piece = fc.constantFrom("12", " ", ".", "december", "'", "CHF", "2026", "-", ",", "5", "€", "of ", "a");
  const hostile = fc.array(piece, { maxLength: 400 }).map((pieces) => pieces.join(""));
  fc.assert(
    fc.property(fc.oneof(fc.string(), hostile), (text) => {
      expect(dateInText(text, SENT) ?? "2026-01-01").toMatch(/^\d{4}-\d{2}-\d{2}$/);
      expect(amountInText(text) ?? "CHF 1.00").toMatch(/^[A-Z]{3} \d+\.\d{2}$/);
      firstNameOf(text);
    }),
    { numRuns: 500 },
  );
});
