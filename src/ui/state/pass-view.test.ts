import { expect, test } from "vitest";
import type { EntryShape } from "@/core/api";
import type { Deed } from "@/core/pass";
import { withEntry } from "./entries";
import { standing } from "./pass-view";
import { set, view, type Pass } from "./store";

/** What holds of a pass, whatever is taken back in it and however long it is. */

/** An entry as far as it matters here. */
const entry = (n: number, more: Partial<EntryShape> = {}) =>
  ({
    seq: n,
    id: `run ${n}`,
    kind: "run",
    of: null,
    state: "done",
    actor: "person",
    cause: null,
    ...more,
  }) as EntryShape;
const deedOf = (n: number): Deed => ({ message: n, run: `run ${n}`, macro: "Archive", ms: 1, at: n });
const writes = (one: EntryShape) => set({ ledger: withEntry(view().ledger, one) });
/** The numbers of the deeds that hold, of runs 1 to that. */
const held = (most: number) =>
  standing({ deeds: Array.from({ length: most }, (_, i) => deedOf(i + 1)) } as unknown as Pass).map(({ at }) => at);

test("what was taken back holds no more, also once two hundred decisions have come after it; done again, it does", () => {
  for (const n of [1, 2, 3]) writes(entry(n));
  expect(held(3)).toEqual([1, 2, 3]);
  writes(entry(4, { kind: "undo", of: "run 2" }));
  expect(held(3)).toEqual([1, 3]);
  for (let n = 5; n < 300; n++) {
    writes(entry(n));
    expect(held(3)).toEqual([1, 3]);
  }
  expect(view().ledger.some(({ id }) => id === "run 2")).toBe(false);
  // From the screen of the ledger, where there is more than a window holds.
  writes(entry(300, { kind: "redo", of: "run 2" }));
  expect(held(3)).toEqual([1, 2, 3]);
  writes(entry(301, { kind: "undo", of: "run 3" }));
  expect(held(3)).toEqual([1, 2]);
  writes(entry(302, { kind: "undo", of: "run 299" }));
  writes(entry(303, { kind: "redo", of: "run 299" }));
  expect(held(299)).toHaveLength(298);
});
