import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { changeOf, compose, countCells, invert, type Change, type Edit } from "../change";
import { messageId, runId, type RunId } from "../id";
import { nextRedo, nextUndo, stateOf, stillStanding, takenBack, type Entry } from ".";

const id = (n: number): RunId => runId(`00000000-0000-4000-8000-${String(n).padStart(12, "0")}`);

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
            entries.push({ seq, id: id(seq), kind: "run", of: null, state: "done", changed: 1 });
            done.push(id(seq));
            undone.length = 0;
            return;
          }
          const found = key === "undo" ? nextUndo(entries) : nextRedo(entries);
          const wanted = (key === "undo" ? done : undone).pop() ?? null;
          expect(found?.id ?? null).toBe(wanted);
          if (!found) return;
          (key === "undo" ? undone : done).push(found.id);
          const at = entries.findIndex((e) => e.id === found.id);
          entries[at] = { ...found, state: key === "undo" ? "undone" : "done" };
          entries.push({ seq, id: id(seq), kind: key as "undo" | "redo", of: found.id, state: "done", changed: 1 });
        });
      }),
    );
  });

  test("a run that changed nothing is passed over", () => {
    const run = (seq: number, changed: number): Entry => ({
      seq,
      id: id(seq),
      kind: "run",
      of: null,
      state: "done",
      changed,
    });
    expect(nextUndo([run(1, 3), run(2, 0)])?.seq).toBe(1);
    expect(nextUndo([])).toBeNull();
    expect(nextRedo([run(1, 3)])).toBeNull();
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
          [...run].flatMap(([message, edits]) =>
            mask & (1 << (message - 1)) ? edits.map((e) => ({ ...e, message }) as Edit) : [],
          ),
        );
        const standing = stillStanding(run, invert(part));
        expect(countCells(standing) + countCells(takenBack(run, standing))).toBe(countCells(run));
        expect(stateOf(run, standing)).toBe(
          part.size === 0 ? "done" : countCells(standing) === 0 ? "undone" : "partly undone",
        );
        // Doing again what was taken back makes it stand as a whole.
        expect(compose(stillStanding(standing, takenBack(run, standing)), invert(run)).size).toBe(0);
      }),
    );
  });
});
