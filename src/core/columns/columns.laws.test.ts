import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { applyEdits } from "../change";
import { folderId, labelId, markerId } from "../id";
import {
  ColumnWriter,
  ColumnCursor,
  columnSeekers,
  columnsOf,
  decodeIndex,
  encodeIndex,
  foldedOf,
  hitsIn,
  inOrder,
  mergeColumns,
  RowIndex,
  stateAt,
  textAt,
  tidied,
  withoutMessages,
  type ColumnRow,
  type Columns,
} from ".";
import { fold, matcher, type Test } from "../narrow";
import { textOf, TextTable } from "./tables";
import { columnRow, kept, sentColumns } from "../../../tests/fixtures/columns";

const ms = fc.oneof(fc.constant(NaN), fc.integer({ min: 0, max: 2_000_000_000_000 }));
const arbRow: fc.Arbitrary<ColumnRow> = fc.record({
  id: fc.integer({ min: 1, max: 40 }),
  thread: fc.integer({ min: 1, max: 2 ** 40 }),
  dateMs: fc.integer({ min: 0, max: 20 }),
  size: fc.nat(),
  account: fc.constantFrom(0, 3),
  folder: fc.integer({ min: 1, max: 9 }),
  bits: fc.integer({ min: 0, max: 15 }),
  traits: fc.integer({ min: 0, max: 8191 }),
  marker: fc.integer({ min: 0, max: 8 }),
  labels: fc.subarray([1, 2, 3]),
  startMs: ms,
  dueMs: ms,
  deferMs: ms,
  backMs: ms,
  awaitMs: ms,
  handMs: ms,
  fromName: fc.string({ unit: "grapheme" }),
  fromAddress: fc.string(),
  whom: fc.string(),
  to: fc.string(),
  cc: fc.string(),
  via: fc.constantFrom("", "wardens@larch.example"),
  file: fc.constantFrom("", "plan.pdf"),
  subject: fc.string({ unit: "grapheme" }),
  preview: fc.string(),
  list: fc.constantFrom("", "huts.example"),
  note: fc.constantFrom("", "ring"),
  flagNote: fc.constantFrom("", "beds"),
});
const BLANK = columnRow(1, { subject: "" });
const arbRows = fc
  .uniqueArray(arbRow, { selector: (row) => row.id, maxLength: 12 })
  .map((rows) => rows.sort((a, b) => a.dateMs - b.dateMs || a.id - b.id));
const decoded = sentColumns;
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
          expect(textAt(c, "subject", i)).toBe(row.subject);
          expect([textAt(c, "fromName", i), textAt(c, "fromAddress", i)]).toEqual([row.fromName, row.fromAddress]);
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

  test("merging thousands in long and short runs is sorting them together too", () => {
    // Runs of one, of fifteen, and of a hundred, more of them than there is room for at first.
    const owner = Array.from({ length: 6000 }, (_, i) =>
      i < 3000 ? i % 2 : i < 4500 ? Math.floor(i / 15) % 2 : Math.floor(i / 100) % 2,
    );
    const row = (i: number) => columnRow(i + 1, { labels: i % 3 === 0 ? [1 + (i % 5)] : [] });
    const side = (which: number) => columnsOf(owner.flatMap((one, i) => (one === which ? [row(i)] : [])));
    const merged = mergeColumns(side(0), side(1));
    expect(shown(merged)).toEqual(shown(columnsOf(owner.map((_, i) => row(i)))));
  });

  test("putting rows in order is sorting them by date, then id", () => {
    fc.assert(
      fc.property(arbRows, fc.infiniteStream(fc.nat()), (rows, random) => {
        const mixed = rows.map((row) => ({ row, at: random.next().value as number })).sort((a, b) => a.at - b.at);
        expect(shown(inOrder(columnsOf(mixed.map(({ row }) => row))))).toEqual(shown(columnsOf(rows)));
      }),
    );
  });

  test("each different text is kept once, whatever it looks like", () => {
    fc.assert(
      fc.property(fc.array(fc.string({ unit: "grapheme", maxLength: 40 }), { maxLength: 300 }), (texts) => {
        const table = new TextTable();
        const numbers = texts.map((text) => table.number(text));
        const packed = table.packed();
        expect(packed.ends.length).toBe(new Set(texts).size);
        expect(numbers.map((n) => textOf(packed, n))).toEqual(texts);
      }),
    );
    const many = new TextTable();
    for (let round = 0; round < 2; round++) for (let n = 0; n < 5000; n++) expect(many.number(`week ${n}`)).toBe(n);
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
          expect(stateAt(c, row)).toEqual(state);
          expect(shown(c).filter((_, i) => i !== row)).toEqual(before.filter((_, i) => i !== row));
        },
      ),
    );
  });

  test("texts written since go along through merging, keeping and tidying", () => {
    fc.assert(
      fc.property(
        arbRows.filter((rows) => rows.length > 0),
        arbRows,
        fc.nat(),
        fc.boolean(),
        (a, b, at, second) => {
          const [first, other] = [decoded(a), decoded(b)];
          const row = at % a.length;
          new ColumnWriter(first).write(row, { ...stateAt(first, row), note: "written since", flag: null });
          const both = second ? mergeColumns(other, first) : mergeColumns(first, other);
          const stays = second || !b.some(({ id }) => id === a[row]!.id);
          for (const c of [both, kept(both), tidied(both), kept(first)]) {
            const found = Array.from({ length: c.count }, (_, i) => i).filter((i) => c.id[i] === a[row]!.id);
            expect(found).toHaveLength(1);
            if (stays) expect(stateAt(c, found[0]!).note).toBe("written since");
          }
        },
      ),
    );
  });

  test("folded texts go along through merging, keeping and tidying", () => {
    fc.assert(
      fc.property(arbRows, arbRows, (a, b) => {
        const first = decoded(a);
        foldedOf(first, "subject");
        const both = kept(mergeColumns(first, decoded(b)));
        expect(both.texts.subject.folded).toBeDefined();
        for (const c of [both, tidied(both)]) {
          const cursor = new ColumnCursor(c);
          expect(shown(c)).toEqual(shown(both));
          for (cursor.row = 0; cursor.row < c.count; cursor.row++)
            expect(cursor.text("subject")).toBe(fold(textAt(c, "subject", cursor.row)));
        }
        expect(tidied(both).texts.subject.ends.length).toBeLessThanOrEqual(both.count);
      }),
    );
  });

  test("a needle is found in a whole table where it is found row by row", () => {
    const words = fc.array(fc.constantFrom("hut", "hu", "hüt", "huthut", "week", "4", ""), { maxLength: 4 });
    const texts = fc.array(
      words.map((list) => list.join(" ")),
      { maxLength: 8 },
    );
    const needle = fc.tuple(words, fc.boolean(), fc.boolean()).map(([list, start, end]) => {
      const folded = fold(list.join(" "));
      return folded.slice(start ? 1 : 0, end ? -1 : undefined) || " ";
    });
    fc.assert(
      fc.property(texts, needle, fc.boolean(), (subjects, sought, whole) => {
        const c = columnsOf(subjects.map((subject, i) => ({ ...BLANK, id: i + 1, subject })));
        const hits = hitsIn(foldedOf(c, "subject"), sought, whole);
        subjects.forEach((subject, i) => {
          const text = fold(subject);
          expect(hits[c.texts.subject.index[i]!] === 1).toBe(whole ? text === sought : text.includes(sought));
        });
      }),
      { numRuns: 500 },
    );
  });

  test("notes are looked into as they are, and words where they are known", () => {
    const c = columnsOf([1, 2].map((id) => ({ ...BLANK, id })));
    new ColumnWriter(c).write(1, { ...stateAt(c, 1), note: "Ring Zürich" });
    const cursor = new ColumnCursor(c);
    const found = (test: Test, known = true) => {
      const matches = matcher(
        test,
        columnSeekers(c, cursor, () => (known ? new Set([1]) : undefined)),
      );
      return [0, 1].filter((row) => ((cursor.row = row), matches(cursor)));
    };
    expect(found({ kind: "text", field: "note", needle: " zurich", whole: false })).toEqual([1]);
    expect(found({ kind: "text", field: "note", needle: " ring zurich ", whole: true })).toEqual([1]);
    expect(found({ kind: "words", where: "body", needle: " hut" })).toEqual([0]);
    expect(found({ kind: "words", where: "body", needle: " hut" }, false)).toEqual([]);
  });

  test("rows are found by id", () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 2 ** 50 }), { maxLength: 60 }), fc.nat(), (ids, other) => {
        const rows = new RowIndex(Float64Array.from(ids), ids.length);
        ids.forEach((id, row) => expect(rows.rowOf(id)).toBe(row));
        if (!ids.includes(other)) expect(rows.rowOf(other)).toBeUndefined();
      }),
    );
    // A row of ids without gaps, and those before and after it.
    const ids = Float64Array.from({ length: 3000 }, (_, i) => 70_001 + i);
    const rows = new RowIndex(ids, ids.length);
    for (let id = 60_000; id < 90_000; id++)
      expect(rows.rowOf(id)).toBe(id > 70_000 && id <= 73_000 ? id - 70_001 : undefined);
  });

  test("bytes that are no columns, or cut short, are refused", () => {
    const whole = encodeIndex({ seq: 7, next: null, gone: [3], columns: columnsOf([]) }).buffer as ArrayBuffer;
    for (const bad of [new ArrayBuffer(0), new ArrayBuffer(3), whole.slice(0, 20)])
      expect(() => decodeIndex(bad)).toThrow();
    expect(decodeIndex(whole)).toMatchObject({ seq: 7, next: null, gone: [3] });
    const full = encodeIndex({ seq: 1, next: null, gone: [], columns: columnsOf([columnRow(1), columnRow(2)]) });
    for (let length = 0; length < full.length - 8; length += 8)
      expect(() => decodeIndex(full.slice(0, length).buffer), `${length} bytes`).toThrow(RangeError);
    // The last section may be followed by nothing: what is cut there is padding or text.
    expect(full.length % 8).toBe(0);
  });
});
