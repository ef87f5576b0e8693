import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { stateWith } from "../../../tests/fixtures/macro";
import { messageId, taskId, type MessageId } from "../id";
import {
  changeOf,
  compose,
  editsOf,
  EMPTY,
  invert,
  isThing,
  load,
  reconcile,
  store,
  thingCell,
  type Change,
  type Edit,
  type ReadThing,
  type Task,
  type ThingEdit,
} from ".";

/** The oracle: what is kept, by cell, written by assignment. */
type Kept = Map<string, ThingEdit["before"]>;

const task = (title: string): Task => ({ title, due: null, estimate: null, about: "x", done: false });
const arbTask = fc.option(fc.constantFrom(task("ring"), task("write"), { ...task("ring"), done: true }));

/** Edits of things as a run may make them: each cell once, and never with equal ends. */
const arbEdit: fc.Arbitrary<ThingEdit> = fc.oneof(
  fc.record({
    kind: fc.constant("task" as const),
    task: fc.integer({ min: 1, max: 3 }).map(taskId),
    before: arbTask,
    after: arbTask,
  }),
  fc.record({
    kind: fc.constant("contact" as const),
    address: fc.constantFrom("a@x.example", "b@x.example"),
    before: fc.constantFrom(null, { name: "A" }),
    after: fc.constantFrom(null, { name: "A" }, { name: "B" }),
  }),
  fc.record({
    kind: fc.constant("blocked" as const),
    address: fc.constantFrom("a@x.example", "b@x.example"),
    before: fc.boolean(),
    after: fc.boolean(),
  }),
);
const arbChange: fc.Arbitrary<Change> = fc
  .uniqueArray(arbEdit, { selector: thingCell, maxLength: 6 })
  .map((edits) => changeOf(edits.map((edit, i): Edit => ({ ...edit, message: messageId((i % 3) + 1) }))));

const before = (change: Change): Kept =>
  new Map([...editsOf(change)].filter(isThing).map((edit) => [thingCell(edit), edit.before]));
const reading =
  (kept: Kept): ReadThing =>
  (edit) =>
    kept.get(thingCell(edit)) ?? (edit.kind === "blocked" ? false : null);
const apply = (kept: Kept, change: Change): Kept => {
  const next = new Map(kept);
  for (const edit of editsOf(change)) if (isThing(edit)) next.set(thingCell(edit), edit.after);
  return next;
};
const there = () => stateWith();

describe("laws of things that runs make", () => {
  test("apply then undo restores what was there", () => {
    fc.assert(
      fc.property(arbChange, (change) => {
        const start = before(change);
        const done = apply(start, change);
        const { ready, skipped } = reconcile(invert(change), there, reading(done));
        expect(skipped).toEqual([]);
        expect(apply(done, ready)).toEqual(start);
      }),
    );
  });
  test("a change and its inverse come to nothing, and the stored form round-trips", () => {
    fc.assert(
      fc.property(arbChange, (change) => {
        expect(compose(change, invert(change)).size).toBe(0);
        expect(load(JSON.parse(JSON.stringify(store(change))))).toEqual(change);
      }),
    );
  });
  test("undo never overwrites what somebody else has made of it since, and says so", () => {
    fc.assert(
      fc.property(arbChange, arbChange, (change, other) => {
        const now = apply(apply(before(change), change), other);
        const { ready, skipped } = reconcile(invert(change), there, reading(now));
        const mine = [...editsOf(change)].length;
        expect([...editsOf(ready)].length + skipped.length).toBe(mine);
        for (const edit of editsOf(ready)) expect(now.get(thingCell(edit as ThingEdit))).toEqual(edit.before);
      }),
    );
  });
  test("what was deleted for good never comes back", () => {
    const gone = changeOf([{ kind: "gone", message: messageId(1), before: false, after: true }]);
    const read = (exists: boolean) => () => (exists ? stateWith() : null);
    expect(reconcile(gone, read(true)).ready.size).toBe(1);
    expect(reconcile(gone, read(false)).skipped).toMatchObject([{ reason: "already-so" }]);
    for (const exists of [true, false])
      expect(reconcile(invert(gone), read(exists))).toMatchObject({ ready: EMPTY, skipped: [{ reason: "gone" }] });
  });
  test("a stored thing of an unknown kind or shape is refused", () => {
    const edits = [{ kind: "task", task: 1, before: null, after: { title: "x" } }];
    expect(() => load({ v: 1, groups: [{ steps: [1], edits }] })).toThrow(RangeError);
    const messages: MessageId[] = [...load({ v: 1, groups: [] }).keys()];
    expect(messages).toEqual([]);
  });
});
