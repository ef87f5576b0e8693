import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { applyEdits, sameState } from "../change";
import { folderId, labelId, markerId } from "../id";
import {
  ColumnWriter,
  decodeColumns,
  encodeColumns,
  mergeColumns,
  stateAt,
  textAt,
  withoutMessages,
  type ColumnRow,
  type Columns,
} from ".";

const ms = fc.oneof(fc.constant(NaN), fc.integer({ min: 0, max: 2_000_000_000_000 }));
const arbRow: fc.Arbitrary<ColumnRow> = fc.record({
  id: fc.integer({ min: 1, max: 40 }),
  thread: fc.integer({ min: 1, max: 2 ** 40 }),
  dateMs: fc.integer({ min: 0, max: 20 }),
  size: fc.nat(),
  folder: fc.integer({ min: 1, max: 9 }),
  bits: fc.integer({ min: 0, max: 15 }),
  traits: fc.integer({ min: 0, max: 127 }),
  marker: fc.integer({ min: 0, max: 8 }),
  labels: fc.subarray([1, 2, 3]),
  startMs: ms,
  dueMs: ms,
  deferMs: ms,
  awaitMs: ms,
  fromName: fc.string({ unit: "grapheme" }),
  fromAddress: fc.string(),
  to: fc.string(),
  subject: fc.string({ unit: "grapheme" }),
  preview: fc.string(),
  list: fc.constantFrom("", "huts.example"),
  note: fc.constantFrom("", "ring"),
  flagNote: fc.constantFrom("", "beds"),
});
const arbRows = fc
  .uniqueArray(arbRow, { selector: (row) => row.id, maxLength: 12 })
  .map((rows) => rows.sort((a, b) => a.dateMs - b.dateMs || a.id - b.id));
const decoded = (rows: readonly ColumnRow[]): Columns => decodeColumns(encodeColumns(rows).buffer as ArrayBuffer);
const shown = (c: Columns) =>
  Array.from({ length: c.count }, (_, row) => ({
    id: c.id[row],
    date: c.dateMs[row],
    thread: c.thread[row],
    state: stateAt(c, row),
    subject: textAt(c, "subject", row),
    from: textAt(c, "fromName", row),
  }));

describe("columns", () => {
  test("hold what was put in", () => {
    fc.assert(
      fc.property(arbRows, (rows) => {
        const c = decoded(rows);
        expect(c.count).toBe(rows.length);
        rows.forEach((row, i) => {
          expect([c.id[i], c.thread[i], c.dateMs[i], c.size[i], c.labelSets[c.labelSet[i]!]]).toEqual([
            row.id,
            row.thread,
            row.dateMs,
            row.size,
            row.labels,
          ]);
          expect(textAt(c, "subject", i)).toBe(row.subject.replaceAll("\0", " "));
        });
      }),
    );
  });

  test("merging is sorting the rows together, the newer in place of the older", () => {
    fc.assert(
      fc.property(arbRows, arbRows, (a, b) => {
        const newer = new Set(b.map((row) => row.id));
        const rows = [...a.filter((row) => !newer.has(row.id)), ...b].sort(
          (x, y) => x.dateMs - y.dateMs || x.id - y.id,
        );
        expect(shown(mergeColumns(decoded(a), decoded(b)))).toEqual(shown(decoded(rows)));
      }),
    );
  });

  test("taking messages away leaves the others as they were", () => {
    fc.assert(
      fc.property(arbRows, fc.array(fc.integer({ min: 1, max: 40 })), (rows, ids) => {
        const gone = new Set(ids);
        expect(shown(withoutMessages(decoded(rows), gone))).toEqual(
          shown(decoded(rows.filter((row) => !gone.has(row.id)))),
        );
      }),
    );
  });

  test("a state that is written reads back, and no other row changes", () => {
    fc.assert(
      fc.property(
        arbRows.filter((rows) => rows.length > 1),
        fc.nat(),
        (rows, at) => {
          const c = decoded(rows);
          const row = at % rows.length;
          const before = shown(c);
          const state = applyEdits(
            {
              ...stateAt(c, row),
              labels: [labelId(2), labelId(9)],
              note: "new",
              folder: folderId(77),
              marker: markerId(5),
            },
            [],
          );
          new ColumnWriter(c).write(row, state);
          expect(sameState(stateAt(c, row), state)).toBe(true);
          expect(shown(c).filter((_, i) => i !== row)).toEqual(before.filter((_, i) => i !== row));
        },
      ),
    );
  });

  test("bytes that are no columns, or cut short, are refused", () => {
    const whole = encodeColumns([]).buffer as ArrayBuffer;
    for (const bad of [new ArrayBuffer(0), new ArrayBuffer(3), whole.slice(0, 20)])
      expect(() => decodeColumns(bad)).toThrow();
  });
});
