import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  changeOf,
  compose,
  countCells,
  invert,
  isEmpty,
  PLAIN_TASK,
  type Change,
  type Edit,
  type ThingEdit,
} from "../change";
import { stateWith } from "../../../tests/fixtures/macro";
import { messageId, runId, type RunId } from "../id";
import {
  ACTORS,
  byRuleAndMinute,
  nextRedo,
  nextUndo,
  onlyExisting,
  restorable,
  stateOf,
  stillStanding,
  takenBack,
  type Entry,
} from ".";

const id = (n: number): RunId => runId(`00000000-0000-4000-8000-${String(n).padStart(12, "0")}`);

const TASK = { ...PLAIN_TASK, title: "ring", about: "x" };

/** A run of the person's that stands and can be taken back, where nothing else is said. */
const entryOf = (seq: number, more: Partial<Entry> = {}): Entry => ({
  seq,
  id: id(seq),
  kind: "run",
  actor: "person",
  of: null,
  state: "done",
  changed: 1,
  restorable: 1,
  ...more,
});

/** The oracle: a stack of done runs and one of undone ones, as an editor keeps them. */
describe("undo and redo in a row", () => {
  test("behave like two stacks, whatever the order of keys", () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom("run", "undo", "redo"), { maxLength: 40 }), (keys) => {
        const entries: Entry[] = [];
        const done: RunId[] = [];
        const undone: RunId[] = [];
        keys.forEach((key, i) => {
          const seq = i + 1;
          if (key === "run") {
            entries.push(entryOf(seq, { restorable: 1, changed: 1 }));
            done.push(id(seq));
            undone.length = 0;
            return;
          }
          const found = key === "undo" ? nextUndo(entries).target : nextRedo(entries);
          const wanted = (key === "undo" ? done : undone).pop() ?? null;
          expect(found?.id ?? null).toBe(wanted);
          if (!found) return;
          (key === "undo" ? undone : done).push(found.id);
          const at = entries.findIndex((e) => e.id === found.id);
          entries[at] = { ...found, state: key === "undo" ? "undone" : "done" };
          entries.push(entryOf(seq, { kind: key as "undo" | "redo", of: found.id, changed: 1 }));
        });
      }),
    );
  });

  test("a run that changed nothing is passed over, and nothing is said of it", () => {
    expect(nextUndo([entryOf(1), entryOf(2, { changed: 0, restorable: 0 })])).toMatchObject({
      target: { seq: 1 },
      passed: [],
    });
    expect(nextUndo([])).toEqual({ target: null, passed: [] });
    expect(nextRedo([entryOf(1)])).toBeNull();
  });

  test("what cannot come back is passed over, newest first: deletions, and what was tried in vain", () => {
    const entries = [entryOf(1), entryOf(2, { restorable: 0 }), entryOf(3), entryOf(4, { restorable: 0 })];
    expect(nextUndo(entries)).toMatchObject({ target: { seq: 3 }, passed: [{ seq: 4 }] });
    const stuck = new Set([id(3)]);
    const next = nextUndo(entries, stuck);
    expect(next.target?.seq).toBe(1);
    expect(next.passed.map((entry) => entry.seq)).toEqual([4, 3, 2]);
  });

  test("only the person's own runs are theirs to take back, and no other run begins a new line of work", () => {
    const others = ACTORS.filter((actor) => actor !== "person");
    for (const actor of others) {
      expect(nextUndo([entryOf(1), entryOf(2, { actor })])).toMatchObject({ target: { seq: 1 }, passed: [] });
      const undone = [
        entryOf(1, { state: "undone", restorable: 0 }),
        entryOf(2, { kind: "undo", of: id(1) }),
        entryOf(3, { actor }),
      ];
      expect(nextRedo(undone)?.seq).toBe(1);
    }
    expect(nextRedo([entryOf(1, { state: "undone" }), entryOf(2, { kind: "undo", of: id(1) }), entryOf(3)])).toBeNull();
  });

  test("a run taken back in part is not taken back by key again", () => {
    expect(nextUndo([entryOf(1), entryOf(2, { state: "partly undone" })]).target?.seq).toBe(1);
  });
});

const arbRun: fc.Arbitrary<Change> = fc
  .uniqueArray(fc.tuple(fc.integer({ min: 1, max: 6 }), fc.constantFrom("read", "pin", "owed")), {
    minLength: 1,
    selector: ([m, k]) => `${m} ${k}`,
  })
  .map((cells) =>
    changeOf(
      cells.map(([message, kind]) => ({ kind, message: messageId(message), before: false, after: true }) as Edit),
    ),
  );

describe("what stands of a run", () => {
  test("what stands and what was taken back make the whole run", () => {
    fc.assert(
      fc.property(arbRun, fc.integer({ min: 1, max: 63 }), (run, mask) => {
        const part = changeOf(
          [...run.messages].flatMap(([message, edits]) =>
            mask & (1 << (message - 1)) ? edits.map((e) => ({ ...e, message }) as Edit) : [],
          ),
        );
        const standing = stillStanding(run, invert(part));
        expect(countCells(standing) + countCells(takenBack(run, standing))).toBe(countCells(run));
        expect(stateOf(run, standing)).toBe(
          isEmpty(part) ? "done" : countCells(standing) === 0 ? "undone" : "partly undone",
        );
        // Doing again what was taken back makes it stand as a whole.
        expect(isEmpty(compose(stillStanding(standing, takenBack(run, standing)), invert(run)))).toBe(true);
      }),
    );
  });

  const task: ThingEdit = { kind: "task", key: "1", about: messageId(1), before: null, after: TASK };
  const gone = (message: number): Edit => ({ kind: "gone", message: messageId(message), before: false, after: true });
  const read = (message: number): Edit => ({ kind: "read", message: messageId(message), before: false, after: true });

  test("ends of messages never count as what can be restored", () => {
    const written = changeOf([gone(1), read(2)], [task]);
    expect(restorable(written)).toBe(2);
    expect(restorable(changeOf([gone(1)]))).toBe(0);
    // A deletion alone stays done: there never was anything to take back.
    expect(stateOf(changeOf([gone(1)]), changeOf([gone(1)]))).toBe("done");
    // With the rest taken back, the run is undone although the message stays away.
    expect(stateOf(written, changeOf([gone(1)]))).toBe("undone");
    expect(stateOf(written, changeOf([gone(1), read(2)]))).toBe("partly undone");
    expect(stateOf(written, written)).toBe("done");
  });

  test("cells of messages that are no more do not stand; things do", () => {
    const standing = changeOf([read(1), read(2)], [task]);
    const left = onlyExisting(standing, { state: (id) => (id === 2 ? stateWith() : null) });
    expect([...left.messages.keys()]).toEqual([2]);
    expect(left.things.size).toBe(1);
  });

  test("a thing that was taken back can be done again", () => {
    const written = changeOf([read(1)], [task]);
    const standing = stillStanding(written, invert(changeOf([], [task])));
    expect([...takenBack(written, standing).things.values()]).toEqual([task]);
    expect(takenBack(written, standing).messages.size).toBe(0);
  });
});

describe("what a rule did in one minute", () => {
  const made = (at: string, cause: string | null, more: Partial<Entry> = {}) => ({
    ...entryOf(1, { actor: "rule", ...more }),
    at: `2026-11-27T10:${at}.000Z`,
    cause,
  });
  const sizes = (...entries: ReturnType<typeof made>[]) => byRuleAndMinute(entries).map(({ length }) => length);

  test("is one group, and nothing else is", () => {
    expect(sizes(made("02:59", "rule 1"), made("02:30", "rule 1"), made("02:00", "rule 1"))).toEqual([3]);
    expect(sizes(made("03:00", "rule 1"), made("02:59", "rule 1"))).toEqual([1, 1]);
    expect(sizes(made("02:59", "rule 1"), made("02:58", "rule 2"), made("02:57", "rule 1"))).toEqual([1, 1, 1]);
    const by = { actor: "person" } as const;
    expect(sizes(made("02:59", null, by), made("02:58", null, by))).toEqual([1, 1]);
    expect(sizes(made("02:59", "rule 1", { kind: "undo" }), made("02:58", "rule 1", { kind: "undo" }))).toEqual([1, 1]);
    expect(sizes()).toEqual([]);
  });

  test("leaves out no entry and keeps their order", () => {
    const entries = ["02:59", "02:58", "01:10", "01:05"].map((at) => made(at, "rule 7"));
    expect(byRuleAndMinute(entries).flat()).toEqual(entries);
  });
});
