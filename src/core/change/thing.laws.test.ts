import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { stateWith } from "../../../tests/fixtures/macro";
import { messageId } from "../id";
import {
  changeOf,
  compose,
  countCells,
  EMPTY,
  invert,
  isEmpty,
  load,
  reconcile,
  sameThing,
  store,
  thingKey,
  touchedBy,
  type Change,
  type Leaving,
  type Pause,
  type Task,
  type ThingEdit,
  type ThingValue,
  type World,
} from ".";

/** The oracle: what is kept, by cell, written by assignment; two things are equal when they are written alike. */
type Kept = ReadonlyMap<string, ThingValue | null>;
const written = (kept: Kept): string[] =>
  [...kept].flatMap(([key, value]) => (value === null ? [] : [`${key} ${JSON.stringify(value)}`])).sort();

const task = (title: string, more: Partial<Task> = {}): Task => ({
  title,
  due: null,
  estimate: null,
  about: "x",
  done: false,
  pressing: false,
  waiting: false,
  repeat: null,
  ...more,
});
/** Tasks that differ in one field each. */
const TASKS = [
  task("ring"),
  task("write"),
  task("ring", { done: true }),
  task("ring", { due: "2026-12-01T09:00:00.000Z" }),
  task("ring", { estimate: 5 }),
  task("ring", { about: "y" }),
  task("ring", { pressing: true }),
  task("ring", { waiting: true }),
  task("ring", { repeat: "2 week" }),
];

/** Pauses that differ in one field each. */
const PAUSE: Pause = { run: "r", message: 1, at: "2", macro: "{}" };
const PAUSES: readonly Pause[] = [
  PAUSE,
  { ...PAUSE, run: "s" },
  { ...PAUSE, message: 2 },
  { ...PAUSE, at: "3" },
  { ...PAUSE, macro: "[]" },
];

const about = fc.constantFrom(null, messageId(1), messageId(2));
const LEAVING: Leaving = { how: "click", target: "https://ridge.example/", account: 0, state: "waiting" };
/** Each differs from the first in one thing. */
const LEAVINGS: readonly Leaving[] = [
  LEAVING,
  { ...LEAVING, how: "letter" },
  { ...LEAVING, target: "https://ridge.example/leave" },
  { ...LEAVING, account: 1 },
  { ...LEAVING, state: "left" },
];

const arbEdit: fc.Arbitrary<ThingEdit> = fc
  .oneof(
    fc.record({
      kind: fc.constant("task" as const),
      key: fc.constantFrom("1", "2", "3"),
      about,
      before: fc.option(fc.constantFrom(...TASKS)),
      after: fc.option(fc.constantFrom(...TASKS)),
    }),
    fc.record({
      kind: fc.constant("contact" as const),
      key: fc.constantFrom("a@x.example", "b@x.example"),
      about,
      before: fc.constantFrom(null, { name: "A", note: "" }),
      after: fc.constantFrom(null, { name: "A", note: "" }, { name: "B", note: "" }),
    }),
    fc.record({
      kind: fc.constantFrom("blocked" as const, "folder" as const, "label" as const),
      key: fc.constantFrom("1", "2"),
      about,
      before: fc.constantFrom(null, true as const),
      after: fc.constantFrom(null, true as const),
    }),
    fc.record({
      kind: fc.constant("held" as const),
      key: fc.constantFrom("1", "2"),
      about,
      before: fc.constantFrom(null, "waiting" as const, "sending" as const),
      after: fc.constantFrom(null, "waiting" as const, "sent" as const),
    }),
    fc.record({
      kind: fc.constant("leaving" as const),
      key: fc.constantFrom("list ridge.notes", "sender bo@larch.example"),
      about,
      before: fc.constantFrom(null, ...LEAVINGS),
      after: fc.constantFrom(null, ...LEAVINGS),
    }),
    fc.record({
      kind: fc.constant("pause" as const),
      key: fc.constantFrom("1", "2"),
      about,
      before: fc.constantFrom(null, ...PAUSES),
      after: fc.constantFrom(null, ...PAUSES),
    }),
  )
  .map((edit) => edit as ThingEdit);
const arbChange: fc.Arbitrary<Change> = fc
  .uniqueArray(arbEdit, { selector: thingKey, maxLength: 6 })
  .map((edits) => changeOf([], edits));

const before = (change: Change): Kept => new Map([...change.things].map(([key, edit]) => [key, edit.before]));
const apply = (kept: Kept, change: Change): Kept =>
  new Map([...kept, ...[...change.things].map(([key, edit]) => [key as string, edit.after] as const)]);
const worldOf = (kept: Kept): World => ({
  state: () => stateWith(),
  thing: (edit) => kept.get(thingKey(edit)) ?? null,
});

describe("laws of things that runs make", () => {
  test("apply then undo restores what was there", () => {
    fc.assert(
      fc.property(arbChange, (change) => {
        const start = before(change);
        const done = apply(start, change);
        const { ready, skipped } = reconcile(invert(change), worldOf(done));
        expect(skipped).toEqual([]);
        expect(written(apply(done, ready))).toEqual(written(start));
      }),
    );
  });
  test("one after the other is both, and a change with its inverse comes to nothing", () => {
    fc.assert(
      fc.property(arbChange, arbChange, (first, second) => {
        const start = before(first);
        const middle = apply(start, first);
        // The second as it can follow the first: what it takes to be there is what the first left.
        const then = changeOf(
          [],
          [...second.things].map(
            ([key, edit]) => ({ ...edit, before: middle.has(key) ? middle.get(key) : edit.before }) as ThingEdit,
          ),
        );
        const both = compose(first, then);
        const there = new Map([...before(then), ...start]);
        expect(written(apply(there, both))).toEqual(written(apply(apply(there, first), then)));
        expect(isEmpty(compose(first, invert(first)))).toBe(true);
      }),
    );
  });
  test("the stored form round-trips", () => {
    fc.assert(
      fc.property(arbChange, (change) => {
        expect(load(JSON.parse(JSON.stringify(store(change))))).toEqual(change);
      }),
    );
  });
  test("what was stored before tasks could press, wait or come again is read as one that does neither", () => {
    const { pressing: _, waiting: __, repeat: ___, ...old } = task("ring");
    const edit = { kind: "task", key: "1", about: null, before: null, after: task("ring") } as const;
    const stored = JSON.stringify(store(changeOf([], [edit]))).replace(
      JSON.stringify(task("ring")),
      JSON.stringify(old),
    );
    expect(stored).not.toContain("pressing");
    expect([...load(JSON.parse(stored)).things.values()]).toEqual([edit]);
  });
  test("undo never overwrites what somebody else has made of it since, and says so", () => {
    fc.assert(
      fc.property(arbChange, arbChange, (change, other) => {
        const now = apply(apply(before(change), change), other);
        const { ready, skipped } = reconcile(invert(change), worldOf(now));
        expect(countCells(ready) + skipped.length).toBe(countCells(change));
        for (const [key, edit] of ready.things) expect(now.get(key) ?? null).toEqual(edit.before);
        for (const skip of skipped) expect(change.things.has(skip.cell as never)).toBe(true);
      }),
    );
  });
  test("where things are not known, they are taken to be as the writer saw them", () => {
    const edit: ThingEdit = {
      kind: "contact",
      key: "a@x.example",
      about: null,
      before: null,
      after: { name: "A", note: "" },
    };
    const change = changeOf([], [edit]);
    expect(reconcile(change, { state: () => null, thing: () => undefined })).toEqual({ ready: change, skipped: [] });
    expect(reconcile(change, { state: () => null, thing: () => ({ name: "A", note: "" }) }).skipped).toMatchObject([
      { reason: "already-so", message: null, cell: "contact:a@x.example" },
    ]);
  });
});

describe("cases of things", () => {
  test.each([
    ["waiting", "ready"],
    ["sending", "sent"],
    ["sent", "sent"],
    ["unsure", "changed-elsewhere"],
    [null, "already-so"],
  ] as const)("calling back a message that is %s: %s", (now, verdict) => {
    const edit: ThingEdit = { kind: "held", key: "7", about: messageId(1), before: "waiting", after: null };
    const { ready, skipped } = reconcile(changeOf([], [edit]), { state: () => null, thing: () => now });
    expect([ready.things.size, ...skipped.map(({ reason }) => reason)]).toEqual(
      verdict === "ready" ? [1] : [0, verdict],
    );
  });

  const contact = (name: string | null, was: string | null, message: number | null = null): ThingEdit => ({
    kind: "contact",
    key: "a@x.example",
    about: message === null ? null : messageId(message),
    before: was === null ? null : { name: was, note: "" },
    after: name === null ? null : { name, note: "" },
  });
  test("a contact is one cell however many messages name it, and keeps the first of them", () => {
    const change = changeOf([], [contact("A", null, 1), contact("B", "A", 2)]);
    expect([...change.things.values()]).toEqual([contact("B", null, 1)]);
    expect([...touchedBy(change)]).toEqual([messageId(1)]);
    expect([...invert(change).things.values()]).toEqual([contact(null, "B", 1)]);
  });
  test("edits of a thing that do not meet are a caller's mistake", () => {
    expect(() => changeOf([], [contact("A", null), contact("B", "C")])).toThrow(
      "edits of contact:a@x.example do not meet",
    );
    expect(() => compose(changeOf([], [contact("A", null)]), changeOf([], [contact("B", null)]))).toThrow(RangeError);
  });
  test("what was deleted for good never comes back", () => {
    const gone = changeOf([{ kind: "gone", message: messageId(1), before: false, after: true }]);
    const there = (exists: boolean): World => ({ state: () => (exists ? stateWith() : null), thing: () => null });
    expect(reconcile(gone, there(true)).ready.messages.size).toBe(1);
    expect(reconcile(gone, there(false)).skipped).toMatchObject([{ reason: "already-so" }]);
    for (const exists of [true, false])
      expect(reconcile(invert(gone), there(exists))).toMatchObject({ ready: EMPTY, skipped: [{ reason: "gone" }] });
  });
  test("version 1, which had things among the edits of messages, is read: the first end was there, the last is left", () => {
    const named = (name: string, was: string | null) => ({
      kind: "contact",
      address: "a@x.example",
      before: was === null ? null : { name: was },
      after: { name },
    });
    const read = { kind: "read", before: false, after: true };
    const blocked = { kind: "blocked", address: "b@x.example", before: false, after: true };
    const change = load({
      v: 1,
      groups: [
        { steps: [1], edits: [read, named("A", null), blocked] },
        { steps: [2, 3], edits: [named("B", null)] },
      ],
    });
    expect([...change.messages]).toEqual([[messageId(1), [read]]]);
    expect([...change.things.values()]).toEqual([
      contact("B", null, 1),
      { kind: "blocked", key: "b@x.example", about: messageId(1), before: null, after: true },
    ]);
    // From then on it is stored as it is now.
    expect(load(JSON.parse(JSON.stringify(store(change))))).toEqual(change);
  });
  test.each([
    [{ kind: "task", key: "1", about: null, before: null, after: { title: "x" } }],
    [{ kind: "task", key: "0", about: null, before: null, after: TASKS[0] }],
    [{ kind: "contact", key: "A@x.example", about: null, before: null, after: { name: "A", note: "" } }],
    [{ kind: "folder", key: "1", about: null, before: true, after: false }],
    [{ kind: "label", key: "one", about: null, before: true, after: null }],
    [{ kind: "song", key: "1", about: null, before: null, after: true }],
  ])("a stored thing of an unknown kind or shape is refused: %j", (thing) => {
    expect(() => load({ v: 2, groups: [], things: [thing] })).toThrow(RangeError);
  });
});

test("two things are the same where they are written alike", () => {
  const values: readonly (ThingValue | null)[] = [
    null,
    true,
    "waiting",
    "sent",
    ...TASKS,
    ...PAUSES,
    { name: "Ines", note: "" },
    { name: "Ines", note: "rings late" },
    { name: "Bo", note: "" },
  ];
  for (const a of values)
    for (const b of values)
      expect(sameThing(structuredClone(a), structuredClone(b)), JSON.stringify([a, b])).toBe(
        JSON.stringify(a) === JSON.stringify(b),
      );
});
