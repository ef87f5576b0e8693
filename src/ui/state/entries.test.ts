import { expect, test } from "vitest";
import type { EntryShape } from "@/core/api";
import { changeOf, EMPTY } from "@/core/change";
import { messageId, runId } from "@/core/id";
import { nextUndo } from "@/core/ledger";
import type { Decision } from "./decision";
import { areReadings, listedAnew, shownEntries, withEntry } from "./entries";

const id = (n: number) => runId(`00000000-0000-4000-8000-${String(n).padStart(12, "0")}`);
const entry = (n: number, more: Partial<EntryShape> = {}): EntryShape => ({
  id: id(n),
  seq: n,
  at: "2026-11-24T12:00:00.000Z",
  kind: "run",
  actor: "person",
  cause: null,
  of: null,
  macro: { id: null, name: `run ${n}`, steps: [] },
  about: "",
  messages: 1,
  changed: 1,
  restorable: 1,
  state: "done",
  skipped: 0,
  ...more,
});
const run = (n: number, change = EMPTY) => ({
  decision: {
    kind: "run",
    id: id(n),
    at: "2026-11-24T12:00:00.000Z",
    macro: { name: `run ${n}`, steps: [] },
    ids: [1, 2],
    answers: {},
    about: "",
  } as Decision,
  change,
});
const back = (kind: "undo" | "redo", n: number, of: number) => ({
  decision: { kind, id: id(n), of: id(of), name: "x", at: "2026-11-24T12:00:00.000Z" } as Decision,
  change: EMPTY,
});
const pin = changeOf([{ kind: "pin", message: messageId(1), before: false, after: true }]);
const gone = changeOf([{ kind: "gone", message: messageId(1), before: false, after: true }]);

test("what is on its way stands on top, newest first, numbered on, until the server has confirmed it", () => {
  const shown = shownEntries([entry(2), entry(1)], [run(3, pin), run(4, gone), run(5)]);
  expect(shown.map((e) => [e.id, e.seq])).toEqual([
    [id(5), 5],
    [id(4), 4],
    [id(3), 3],
    [id(2), 2],
    [id(1), 1],
  ]);
  // What only the server can plan may be taken back; what is deleted for good may not.
  expect(shown.slice(0, 3).map((e) => e.restorable)).toEqual([1, 0, 1]);
  expect(shownEntries([entry(3), entry(2)], [run(3, pin)]).map((e) => e.id)).toEqual([id(3), id(2)]);
  expect(shownEntries([], [run(9)])[0]).toMatchObject({ seq: 1, messages: 2, actor: "person" });
});

test("a run being taken back is so already, and one being done again stands", () => {
  const states = (waiting: Parameters<typeof shownEntries>[1]) =>
    shownEntries([entry(2, { state: "undone" }), entry(1)], waiting).map((e) => [e.kind, e.state]);
  expect(states([back("undo", 8, 1), back("redo", 9, 2)])).toEqual([
    ["redo", "done"],
    ["undo", "done"],
    ["run", "done"],
    ["run", "undone"],
  ]);
});

test("an entry that arrives stands first, once, and says what has become of its run", () => {
  const known = [entry(2), entry(1)];
  const undone = withEntry(known, entry(3, { kind: "undo", of: id(1) }));
  expect(undone.map((e) => [e.id, e.state])).toEqual([
    [id(3), "done"],
    [id(2), "done"],
    [id(1), "undone"],
  ]);
  const again = withEntry(undone, entry(4, { kind: "redo", of: id(1) }));
  expect(again.at(-1)?.state).toBe("done");
  expect(withEntry(known, entry(2, { changed: 7 })).map((e) => e.changed)).toEqual([7, 1]);
  const many = Array.from({ length: 200 }, (_, i) => entry(200 - i));
  expect(withEntry(many, entry(201)).map(({ seq }) => seq)).toEqual(Array.from({ length: 200 }, (_, i) => 201 - i));
});

test("what was done again is what the next undo means, whether the server has answered or not", () => {
  // The run as the server told it last, while it was taken back: nothing of it could be.
  const undone = entry(2, { state: "undone", restorable: 0 });
  const next = (shown: readonly EntryShape[]) =>
    nextUndo(shown.map((one) => ({ ...one, id: runId(one.id), of: one.of === null ? null : runId(one.of) }))).target
      ?.id;
  const known = [entry(3, { kind: "undo", of: id(2) }), undone, entry(1)];
  expect(next(shownEntries(known, []))).toBe(id(1));
  expect(next(shownEntries(known, [back("redo", 4, 2)]))).toBe(id(2));
  expect(next(withEntry(known, entry(4, { kind: "redo", of: id(2) })))).toBe(id(2));
});

test("what was only read outlives a list read anew, which leaves it out, and so does what was taken back of it", () => {
  const read = (n: number) => entry(n, { cause: "reading" });
  const known = [entry(6, { kind: "undo", of: id(4) }), entry(5, { changed: 9 }), read(4), entry(3), read(2), entry(1)];
  expect(known.filter(areReadings(known)).map(({ seq }) => seq)).toEqual([6, 4, 2]);
  // The server knows of two more, and of one something else; of one it knows nothing any more.
  const anew = listedAnew(known, [entry(8), entry(7, { kind: "undo", of: id(1) }), entry(5), entry(1)]);
  expect(anew.map(({ seq, changed }) => [seq, changed])).toEqual([
    [8, 1],
    [7, 1],
    [6, 1],
    [5, 1],
    [4, 1],
    [2, 1],
    [1, 1],
  ]);
  expect(listedAnew([read(3)], [read(3)])).toHaveLength(1);
  // Somebody who reads a lot keeps the newest of it.
  const many = Array.from({ length: 90 }, (_, i) => read(90 - i));
  expect(listedAnew(many, []).map(({ seq }) => seq)).toEqual(Array.from({ length: 20 }, (_, i) => 90 - i));
});

test("what rules do meanwhile, however much, pushes nothing out that undo may mean", () => {
  const byRules = (n: number) => entry(n, { actor: "rule", cause: "rule 1" });
  let known = [entry(2), entry(1)];
  for (let n = 3; n < 400; n++) known = withEntry(known, byRules(n));
  expect(known.filter(({ actor }) => actor === "person").map(({ seq }) => seq)).toEqual([2, 1]);
  expect(known.filter(({ actor }) => actor === "rule").map(({ seq }) => seq)).toEqual(
    Array.from({ length: 40 }, (_, i) => 399 - i),
  );
  // Nor does what counts as read by being looked at.
  for (let n = 400; n < 700; n++) known = withEntry(known, entry(n, { cause: "reading" }));
  expect(known.filter(({ actor, cause }) => actor === "person" && cause === null).map(({ seq }) => seq)).toEqual([
    2, 1,
  ]);
  expect(known.filter(({ cause }) => cause === "reading")).toHaveLength(20);
});
