import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { sentColumns } from "../../../tests/fixtures/columns";
import { arbCondition, arbPlain, holds, NOW, written, ZONE, type Plain } from "../../../tests/fixtures/evaluator";
import { plausible, rowOf, tasksOf } from "../../../tests/fixtures/evaluator-rows";
import { context, directory } from "../../../tests/fixtures/macro";
import { messageId } from "../id";
import { fold, matcher, readNarrow } from "../narrow";
import { ColumnCursor, columnSeekers, Masks, RowIndex, stateAt, type Columns } from ".";

const ROWS = 9;
const arbMessages = fc
  .array(arbPlain, { minLength: ROWS, maxLength: ROWS })
  .map((all) => all.map((one, i) => plausible(one, i + 1)));

/** Which messages the three ways of answering find, each by itself. */
function found(source: string, messages: readonly Plain[], columns: Columns) {
  const checked = readNarrow(source, { directory, now: NOW, zone: ZONE });
  if (!checked.ok) throw new Error(`${source}: ${JSON.stringify(checked.issues)}`);
  const body = (id: number) => fold(messages.find((m) => m.id === id)!.body);
  const withWord = (needle: string) => messages.filter((m) => body(m.id).includes(needle)).map((m) => m.id);
  const tasks = tasksOf(messages);
  const cursor = new ColumnCursor(columns, tasks);
  const byTable = matcher(
    checked.test,
    columnSeekers(columns, cursor, (needle) => new Set(withWord(needle))),
  );
  const rows = Array.from({ length: columns.count }, (_, row) => row);
  const ids = (test: (row: number) => boolean) => rows.filter(test).map((row) => columns.id[row]);
  const mask = new Masks(columns, new RowIndex(columns.id, columns.count), withWord, tasks).of(checked.test);
  return {
    table: ids((row) => ((cursor.row = row), byTable(cursor))),
    mask: ids((row) => mask[row] === 1),
    onlyOnes: mask.every((one) => one === 0 || one === 1),
  };
}

describe("expressions mean what they say", () => {
  test("in the columns, row by row and all at once: as on messages a person sees", () => {
    fc.assert(
      fc.property(arbMessages, arbCondition, (messages, condition) => {
        const columns = sentColumns(messages.map((m) => rowOf(m, directory)));
        const wanted = messages.filter((m) => holds(condition, m)).map((m) => m.id);
        expect(found(written(condition), messages, columns), written(condition)).toEqual({
          table: wanted,
          mask: wanted,
          onlyOnes: true,
        });
      }),
      { numRuns: 2500 },
    );
  });

  test("nothing is found of words that nobody has asked the server for yet", () => {
    const columns = sentColumns([rowOf(plausible({ ...ANY, body: "hut" }, 1), directory)]);
    const checked = readNarrow("body~hut", { directory, now: NOW, zone: ZONE });
    if (!checked.ok) throw new Error("unreadable");
    const cursor = new ColumnCursor(columns);
    expect(
      matcher(
        checked.test,
        columnSeekers(columns, cursor, () => undefined),
      )(cursor),
    ).toBe(false);
    expect([...new Masks(columns, new RowIndex(columns.id, 1), () => undefined).of(checked.test)]).toEqual([0]);
    // Words of a message that is not here are nobody's.
    expect([...new Masks(columns, new RowIndex(columns.id, 1), () => [7]).of(checked.test)]).toEqual([0]);
  });

  test("the states of rows are those they were made from", () => {
    fc.assert(
      fc.property(arbMessages, (messages) => {
        const columns = sentColumns(messages.map((m) => rowOf(m, directory)));
        messages.forEach((m, row) => {
          const state = stateAt(columns, row);
          expect(messageId(m.id)).toBe(columns.id[row]);
          expect([state.read, state.pin, state.owed, state.flag !== null]).toEqual(
            (["read", "pinned", "owed", "flagged"] as const).map((one) => m.is.includes(one)),
          );
          expect([state.flag?.due ?? null, state.defer, state.note ?? ""]).toEqual([m.due, m.comesBack, m.note]);
          expect(context.directory.folders.find((f) => f.id === state.folder)?.path).toBe(m.folder);
        });
      }),
      { numRuns: 100 },
    );
  });
});

const ANY: Omit<Plain, "id"> = {
  from: "Ines",
  fromAddress: "ines@larch.example",
  to: "",
  cc: "",
  via: "",
  file: "",
  list: "",
  subject: "",
  note: "",
  body: "",
  size: 1,
  date: "2026-11-24T12:00:00.000Z",
  due: null,
  comesBack: null,
  tasks: [],
  folder: "Inbox",
  account: null,
  labels: [],
  marker: null,
  is: [],
};

/** Golden cases: what an expression must find, by hand. */
describe("golden cases", () => {
  const at = (date: string, more: Partial<Plain> = {}) => ({ ...ANY, date, ...more });
  const due = (iso: string) => at("2026-11-01T00:00:00.000Z", { is: ["flagged"], due: iso });
  test.each<[string, Omit<Plain, "id">, boolean]>([
    // The day ends at midnight in the person's zone, an hour before it does in UTC.
    ["due<=today", due("2026-11-24T22:59:59.999Z"), true],
    ["due<=today", due("2026-11-24T23:00:00.000Z"), false],
    ["due<today", due("2026-11-23T22:59:59.999Z"), true],
    ["due<today", due("2026-11-23T23:00:00.000Z"), false],
    ["due>today", due("2026-11-24T23:00:00.000Z"), true],
    ["due=today", due("2026-11-24T08:00:00.000Z"), true],
    ["due=today", at("2026-11-24T08:00:00.000Z"), false],
    ["date=2026", at("2026-01-01T00:00:00.000Z"), true],
    ["date=2026", at("2025-12-31T23:00:00.000Z"), true],
    ["date=2026", at("2025-12-31T22:59:59.999Z"), false],
    ["date=2026", at("2026-12-31T22:59:59.999Z"), true],
    ["date=2026", at("2026-12-31T23:00:00.000Z"), false],
    ["date=2026-02", at("2026-02-28T22:59:59.999Z"), true],
    ["date=2026-02", at("2026-02-28T23:00:00.000Z"), false],
    // The day on which the clocks go back has 25 hours.
    ["date=2026-10-25", at("2026-10-25T22:59:59.999Z"), true],
    ["date=2026-10-25", at("2026-10-24T21:59:59.999Z"), false],
    ["note~ring", at(ANY.date, { note: "Ring back" }), true],
    ["note~ring", at(ANY.date, { note: "spring" }), false],
    ["note~ring", at(ANY.date), false],
    ["subject~hut", at(ANY.date, { subject: "shut" }), false],
    ["from~arch", at(ANY.date), true],
    ["from=larch", at(ANY.date), true],
    ["from=arch", at(ANY.date), false],
    ["subject=hut", at(ANY.date, { subject: "Hut" }), true],
    ["subject=hut", at(ANY.date, { subject: "hut beds" }), false],
    ["size>1k", at(ANY.date, { size: 1024 }), false],
    ["size>1k", at(ANY.date, { size: 1025 }), true],
    ["size<=1k", at(ANY.date, { size: 1024 }), true],
    ["age>7d", at("2026-11-17T12:00:00.000Z"), false],
    ["age>7d", at("2026-11-17T11:59:59.999Z"), true],
    ["date=2026-11-10+-2d", at("2026-11-07T22:59:59.999Z"), false],
    ["date=2026-11-10+-2d", at("2026-11-12T22:59:59.999Z"), true],
    ["!folder=Inbox", at(ANY.date), false],
    ["!unread", at(ANY.date, { is: ["read"] }), true],
    ["unread pinned", at(ANY.date), false],
    ["unread | pinned", at(ANY.date), true],
    ["!unread | pinned", at(ANY.date), false],
    ["unread & (pinned | owed)", at(ANY.date, { is: ["owed"] }), true],
    ["zürich", at(ANY.date, { body: "in ZURICH" }), true],
    ['"hut beds"', at(ANY.date, { subject: "hut", body: "beds" }), false],
  ])("%s", (source, message, is) => {
    const one = plausible(message, 1);
    const columns = sentColumns([rowOf(one, directory)]);
    const ids = is ? [1] : [];
    expect(found(source, [one], columns)).toEqual({ table: ids, mask: ids, onlyOnes: true });
  });
});

test.each(["date=0050", "date=1899-12-31", "due=0000-01-01", "date=2026-13", "date=2026-00", "date=2026-01-32"])(
  "%s is no day",
  (source) => {
    expect(readNarrow(source, { directory, now: NOW, zone: ZONE })).toMatchObject({
      ok: false,
      issues: [{ code: "bad-value" }],
    });
  },
);
