import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { stateWith } from "../../../tests/fixtures/macro";
import { folderId, labelId, markerId, messageId, type MessageId } from "../id";
import {
  applyEdits,
  changeOf,
  compose,
  countCells,
  editsBetween,
  editsOf,
  EMPTY,
  invert,
  isEmpty,
  load,
  messagesWith,
  reconcile,
  sameState,
  store,
  type Change,
  type Edit,
  type MessageState,
  type World,
} from ".";

/** The oracle: plain objects, written by assignment. */
type Store = Map<MessageId, MessageState>;

const time = fc.constantFrom(null, "2026-11-24T09:00:00.000Z", "2026-12-01T09:00:00.000Z");
const text = fc.constantFrom(null, "beds", "ring back");
const arbState: fc.Arbitrary<MessageState> = fc.record({
  folder: fc.integer({ min: 1, max: 3 }).map(folderId),
  read: fc.boolean(),
  flag: fc.option(fc.record({ start: time, due: time, note: text })),
  pin: fc.boolean(),
  marker: fc.option(fc.integer({ min: 1, max: 2 }).map(markerId)),
  labels: fc.subarray([labelId(1), labelId(2), labelId(3)]),
  note: text,
  defer: time,
  back: time,
  await: time,
  hand: time,
  owed: fc.boolean(),
});
const arbStore: fc.Arbitrary<Store> = fc
  .array(arbState, { minLength: 1, maxLength: 5 })
  .map((states) => new Map(states.map((state, i) => [messageId(i + 1), state])));

const apply = (to: Store, change: Change): Store => {
  const next = new Map(to);
  for (const [id, edits] of change.messages) {
    const state = next.get(id);
    if (state) next.set(id, applyEdits(state, edits));
  }
  return next;
};
const leading = (from: Store, to: Store): Change =>
  changeOf(
    [...from].flatMap(([message, state]) =>
      editsBetween(state, to.get(message) ?? state).map((edit): Edit => ({ ...edit, message })),
    ),
  );
/** Equality of the oracle's own: what a person would see written out. */
const written = (store: Store): string =>
  JSON.stringify(
    [...store]
      .sort(([a], [b]) => a - b)
      .map(([id, s]) => [
        id,
        s.folder,
        s.read,
        s.flag && [s.flag.start, s.flag.due, s.flag.note],
        s.pin,
        s.marker,
        [...s.labels].sort((a, b) => a - b),
        s.note,
        s.defer,
        s.await,
        s.owed,
      ]),
  );
const same = (a: Store, b: Store): boolean => written(a) === written(b);
const worldOf = (store: Store): World => ({ state: (id) => store.get(id) ?? null, thing: () => undefined });

/** A store, and another with the same messages in other states. */
const arbTwo = arbStore.chain((a) =>
  fc.tuple(
    fc.constant(a),
    fc
      .array(arbState, { minLength: a.size, maxLength: a.size })
      .map((s): Store => new Map([...a.keys()].map((id, i) => [id, s[i]!]))),
  ),
);
const arbThree = arbTwo.chain(([a, b]) =>
  fc.tuple(
    fc.constant(a),
    fc.constant(b),
    fc
      .array(arbState, { minLength: a.size, maxLength: a.size })
      .map((s): Store => new Map([...a.keys()].map((id, i) => [id, s[i]!]))),
  ),
);
const RUNS = { numRuns: 1500 };

describe("laws of change", () => {
  test("what leads from one store to another does", () => {
    fc.assert(
      fc.property(arbTwo, ([a, b]) => same(apply(a, leading(a, b)), b)),
      RUNS,
    );
  });

  test("apply, then undo, restores", () => {
    fc.assert(
      fc.property(arbTwo, ([a, b]) => same(apply(apply(a, leading(a, b)), invert(leading(a, b))), a)),
      RUNS,
    );
  });

  test("compose is doing both", () => {
    fc.assert(
      fc.property(arbThree, ([a, b, c]) => same(apply(a, compose(leading(a, b), leading(b, c))), c)),
      RUNS,
    );
  });

  test("composed with its inverse, nothing is left", () => {
    fc.assert(
      fc.property(arbTwo, ([a, b]) => isEmpty(compose(leading(a, b), invert(leading(a, b))))),
      RUNS,
    );
  });

  test("inverting twice gives the change back", () => {
    fc.assert(
      fc.property(
        arbTwo,
        ([a, b]) => JSON.stringify(store(invert(invert(leading(a, b))))) === JSON.stringify(store(leading(a, b))),
      ),
      RUNS,
    );
  });

  test("no edit has equal ends, and no cell two edits", () => {
    fc.assert(
      fc.property(arbThree, ([a, b, c]) => {
        const change = compose(leading(a, b), leading(b, c));
        const cells = [...editsOf(change)].map((e) => `${e.message} ${e.kind}${e.kind === "label" ? e.label : ""}`);
        return (
          new Set(cells).size === cells.length &&
          [...editsOf(change)].every((e) => JSON.stringify(e.before) !== JSON.stringify(e.after))
        );
      }),
      RUNS,
    );
  });

  test("undo after somebody else wrote never overwrites, and reports every cell it leaves", () => {
    fc.assert(
      fc.property(arbThree, fc.boolean(), ([a, b, c], vanished) => {
        const run = leading(a, b);
        const now = new Map(c);
        if (vanished) now.delete(messageId(1));
        const { ready, skipped } = reconcile(invert(run), worldOf(now));
        expect(countCells(ready) + skipped.length).toBe(countCells(run));
        const after = apply(now, ready);
        for (const [id, state] of now) {
          // A cell that holds neither end is somebody else's, and stays as it is.
          const untouched = applyEdits(
            after.get(id)!,
            (ready.messages.get(id) ?? []).map((e) => ({ ...e, after: e.before }) as typeof e),
          );
          expect(written(new Map([[id, untouched]]))).toBe(written(new Map([[id, state]])));
        }
        for (const skip of skipped) if (!now.has(skip.message!)) expect(skip.reason).toBe("gone");
      }),
      RUNS,
    );
  });

  test("two states are the same where nothing written out differs", () => {
    fc.assert(
      fc.property(arbState, arbState, (a, b) => {
        const alike = written(new Map([[messageId(1), a]])) === written(new Map([[messageId(1), b]]));
        expect(sameState(a, b)).toBe(alike);
        expect(sameState(a, { ...a, labels: b.labels })).toBe(a.labels.join() === b.labels.join());
        expect(sameState(a, { ...a, owed: b.owed, pin: b.pin })).toBe(a.owed === b.owed && a.pin === b.pin);
        expect(sameState(a, structuredClone(a))).toBe(true);
      }),
      RUNS,
    );
  });

  test("the part of some kind and the rest are the whole", () => {
    fc.assert(
      fc.property(arbTwo, fc.constantFrom("folder", "read", "label", "note"), ([a, b], kind) => {
        const whole = leading(a, b);
        const part = messagesWith(whole, (edit) => edit.kind === kind);
        const rest = messagesWith(whole, (edit) => edit.kind !== kind);
        expect([...editsOf(part)].every((edit) => edit.kind === kind)).toBe(true);
        expect(countCells(part) + countCells(rest)).toBe(countCells(whole));
        return same(apply(apply(a, part), rest), b);
      }),
      RUNS,
    );
    const blocked = { kind: "blocked", key: "a@x.example", about: null, before: null, after: true } as const;
    expect(messagesWith(changeOf([], [blocked]), () => true).things.size).toBe(0);
  });

  test("the stored form round-trips", () => {
    fc.assert(
      fc.property(arbTwo, ([a, b]) => {
        const change = leading(a, b);
        const back = load(JSON.parse(JSON.stringify(store(change))));
        return same(apply(a, back), apply(a, change)) && back.messages.size === change.messages.size;
      }),
      RUNS,
    );
  });
});

const move = (message: number, before: number, after: number): Edit => ({
  kind: "folder",
  message: messageId(message),
  before: folderId(before),
  after: folderId(after),
});

describe("cases of change", () => {
  test("edits that do not meet are a caller's mistake", () => {
    expect(() => changeOf([move(1, 1, 2), move(1, 3, 4)])).toThrow(/do not meet/);
    expect(() => compose(changeOf([move(1, 1, 2)]), changeOf([move(1, 3, 4)]))).toThrow(RangeError);
  });

  test("there and back is no change", () => {
    expect(changeOf([move(1, 1, 2), move(1, 2, 1)]).messages.size).toBe(0);
  });

  test("two labels on one message are two cells", () => {
    const label = (id: number, message = 1): Edit => ({
      kind: "label",
      label: labelId(id),
      message: messageId(message),
      before: false,
      after: true,
    });
    expect(countCells(changeOf([label(1), label(2)]))).toBe(2);
  });

  test("ten thousand messages with the same edits are stored as one group", () => {
    const change = changeOf(Array.from({ length: 10_000 }, (_, i) => move(i + 1, 1, 2)));
    const stored = store(change);
    expect(stored.groups).toHaveLength(1);
    expect(JSON.stringify(stored).length).toBeLessThan(30_000);
  });

  test("an empty change stores and loads", () => {
    expect(isEmpty(load(store(EMPTY)))).toBe(true);
  });

  test.each([
    [{ v: 3, groups: [], things: [] }],
    [{ v: 2, groups: [] }],
    [{ v: 2, groups: [{ steps: [1], edits: [{ kind: "task", task: 1, before: null, after: null }] }], things: [] }],
    [{ v: 1, groups: [{ steps: [1], edits: [{ kind: "colour", before: 1, after: 2 }] }] }],
    [{ v: 1, groups: [{ steps: [1], edits: [{ kind: "read", before: false, after: true, extra: 1 }] }] }],
    [{ v: 1, groups: [{ steps: [0], edits: [{ kind: "read", before: false, after: true }] }] }],
    [null],
    ["v1"],
  ])("refuses to load what it does not know: %j", (raw) => {
    expect(() => load(raw)).toThrow(RangeError);
  });

  test("what could not be read again is not stored", () => {
    const thing = {
      kind: "report",
      key: "7",
      about: null,
      before: null,
      after: { as: "junk", state: "waiting" },
    } as const;
    expect(load(store(changeOf([], [thing]))).things.size).toBe(1);
    for (const bad of [
      { ...thing, after: { ...thing.after, at: 1 } },
      { ...thing, key: "seven" },
      { ...thing, kind: "aside", key: "list A.b", after: "aside" },
      { ...thing, person: 1 },
    ])
      expect(() => store(changeOf([], [bad as never]))).toThrow();
  });

  test("a copy is taken away only while it is as it was made", () => {
    const state = stateWith({ read: true });
    const made = changeOf([
      { kind: "exists", message: messageId(9), before: null, after: { source: messageId(1), state } },
    ]);
    const where = (found: MessageState | null) => worldOf(new Map(found ? [[messageId(9), found]] : []));
    expect(reconcile(invert(made), where(state)).ready.messages.size).toBe(1);
    expect(reconcile(invert(made), where({ ...state, read: false })).skipped[0]?.reason).toBe("changed-elsewhere");
    // A copy that holds another label than it was made with has been changed, too.
    expect(reconcile(invert(made), where({ ...state, labels: [labelId(3)] })).skipped[0]?.reason).toBe(
      "changed-elsewhere",
    );
    expect(reconcile(invert(made), where(null)).skipped[0]?.reason).toBe("already-so");
    expect(reconcile(made, where(state)).skipped[0]?.reason).toBe("already-so");
    expect(reconcile(made, where(null)).skipped[0]?.reason).toBe("gone");
    const source = worldOf(new Map([[messageId(1), state]]));
    expect(reconcile(made, source).ready.messages.size).toBe(1);
  });
});
