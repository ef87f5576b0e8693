import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { byImportance, importanceOf, type Weighable } from "./importance";

const NOW = Date.UTC(2026, 10, 26);
const DAY = 86_400_000;
const PLAIN: Weighable = {
  flagged: false,
  dueMs: NaN,
  marker: -1,
  contact: false,
  owed: false,
  answered: false,
  dateMs: NOW,
};
/** From the heaviest sign to the lightest. */
const SIGNS: readonly Partial<Weighable>[] = [
  { flagged: true, dueMs: NOW - DAY },
  { flagged: true, dueMs: NOW + DAY },
  { flagged: true },
  { marker: 0 },
  { marker: 1 },
  { marker: 7 },
  { contact: true },
  { owed: true },
  { answered: true },
];
const weightOf = (signs: Partial<Weighable>, dateMs = NOW) => importanceOf({ ...PLAIN, ...signs, dateMs }, NOW).weight;

describe("importance", () => {
  test.each(SIGNS.map((sign, i) => [i, sign] as const))(
    "sign %i outweighs all that is below it together",
    (i, sign) => {
      const below = Object.assign({}, ...[...SIGNS.slice(i + 1)].reverse()) as Partial<Weighable>;
      expect(weightOf(sign)).toBeGreaterThan(weightOf(below, NOW - 3650 * DAY));
    },
  );

  test("the older of two equal ones comes first, and no age makes up for a sign", () => {
    expect(weightOf({}, NOW - 2 * DAY)).toBeGreaterThan(weightOf({}, NOW - DAY));
    expect(weightOf({ answered: true })).toBeGreaterThan(weightOf({}, 0));
  });

  test("a date without a flag, and a due date far off, are no signs", () => {
    expect(weightOf({ dueMs: NOW - DAY })).toBe(weightOf({}));
    expect(weightOf({ flagged: true, dueMs: NOW + 30 * DAY })).toBe(weightOf({ flagged: true }));
  });

  test("tells its reasons, the heaviest first", () => {
    const message = { ...PLAIN, flagged: true, dueMs: NOW - 2 * DAY, contact: true, owed: true, dateMs: NOW - 9 * DAY };
    expect(importanceOf(message, NOW).reasons).toEqual(["due 2 d ago", "flagged", "from a contact", "owed", "9 d old"]);
    expect(importanceOf(PLAIN, NOW).reasons).toEqual([]);
  });

  test("orders any mail as comparing each two would", () => {
    const message = fc.record({
      flagged: fc.boolean(),
      dueMs: fc.constantFrom(NaN, NOW - DAY, NOW + DAY, NOW + 40 * DAY),
      marker: fc.integer({ min: -1, max: 7 }),
      contact: fc.boolean(),
      owed: fc.boolean(),
      answered: fc.boolean(),
      dateMs: fc.integer({ min: NOW - 500 * DAY, max: NOW }),
    });
    /** The same in the words of the rule: each sign in turn, then age. */
    const rank = (m: Weighable) => [
      m.flagged && m.dueMs < NOW ? 0 : 1,
      m.flagged && m.dueMs < NOW + 3 * DAY ? 0 : 1,
      m.flagged ? 0 : 1,
      m.marker < 0 ? 8 : m.marker,
      m.contact ? 0 : 1,
      m.owed ? 0 : 1,
      m.answered ? 0 : 1,
      m.dateMs,
    ];
    const before = (a: Weighable, b: Weighable) => {
      const [x, y] = [rank(a), rank(b)];
      const at = x.findIndex((one, i) => one !== y[i]);
      return at < 0 || x[at]! < y[at]!;
    };
    fc.assert(
      fc.property(fc.array(message, { maxLength: 12 }), (all) => {
        const sorted = byImportance(all, (one) => one, NOW);
        expect(sorted).toHaveLength(all.length);
        for (let i = 1; i < sorted.length; i++) expect(before(sorted[i - 1]!, sorted[i]!)).toBe(true);
      }),
    );
  });
});
