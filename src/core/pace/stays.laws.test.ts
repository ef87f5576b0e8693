import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { MessageEdit } from "../change";
import { folderId } from "../id";
import { follow, ofPace, type Moment, type Stay, type Whereabouts } from ".";

/** Folders 1 to 3 are places where mail waits; 8 and 9 are not. */
const waits = (folder: number) => folder < 5;
const BORN = 1000;
const LATER = "2026-12-01T00:00:00.000Z";

const moved = (before: number, after: number): MessageEdit => ({
  kind: "folder",
  before: folderId(before),
  after: folderId(after),
});
const deferred = (on: boolean): MessageEdit => ({ kind: "defer", before: on ? null : LATER, after: on ? LATER : null });

type Spot = { readonly folder: number; readonly deferred: boolean };
/** What a run does, and what taking it back does. */
function edits(from: Spot, to: Spot): MessageEdit[] {
  const out: MessageEdit[] = [];
  if (from.folder !== to.folder) out.push(moved(from.folder, to.folder));
  if (from.deferred !== to.deferred) out.push(deferred(to.deferred));
  return out;
}

const spot: fc.Arbitrary<Spot> = fc.record({ folder: fc.constantFrom(1, 2, 3, 8, 9), deferred: fc.boolean() });
const act = fc.oneof(
  { weight: 3, arbitrary: spot.map((to) => ({ to })) },
  { weight: 2, arbitrary: fc.constant({ to: null }) },
);
const actors = fc.constantFrom("person", "rule", "clock") as fc.Arbitrary<Moment["actor"]>;
const history = fc.array(fc.tuple(act, actors), { maxLength: 12 });

/** Runs and undos of the newest run that stands, as a ledger has them; and the runs that stand at the end. */
function play(first: Spot, acts: readonly [{ to: Spot | null }, Moment["actor"]][]) {
  const moments: Moment[] = [];
  const standing: { run: string; from: Spot; to: Spot; at: number; actor: Moment["actor"] }[] = [];
  let now = first;
  acts.forEach(([{ to }, actor], i) => {
    const at = BORN + 10 * (i + 1);
    if (to) {
      standing.push({ run: `r${i}`, from: now, to, at, actor });
      moments.push({ run: `r${i}`, kind: "run", actor, at, edits: edits(now, to) });
      now = to;
      return;
    }
    const last = standing.pop();
    if (!last) return;
    moments.push({ run: last.run, kind: "undo", actor: "person", at, edits: edits(last.to, last.from) });
    now = last.from;
  });
  return { moments, standing, now };
}

/** Run by run, in the plainest words: what is left is ended, what is come to is begun. */
function plainly(first: Spot, standing: ReturnType<typeof play>["standing"]) {
  const place = (one: Spot) => (one.folder < 5 && !one.deferred ? one.folder : null);
  const out: { place: number; came: number; left: number | null; byPerson: boolean }[] = [];
  if (place(first) !== null) out.push({ place: place(first)!, came: BORN, left: null, byPerson: false });
  for (const { from, to, at, actor } of standing) {
    if (place(from) === place(to)) continue;
    if (place(from) !== null) Object.assign(out.at(-1)!, { left: at, byPerson: actor === "person" });
    if (place(to) !== null) out.push({ place: place(to)!, came: at, left: null, byPerson: false });
  }
  return out;
}
const bare = (stays: readonly Stay[]) =>
  stays.map(({ place, came, left, byPerson }) => ({ place, came, left, byPerson }));

describe("the stays of a message", () => {
  test("are those of the runs that stand: what was taken back was never made", () => {
    fc.assert(
      fc.property(spot, history, (first, acts) => {
        const { moments, standing, now } = play(first, acts);
        expect(bare(follow([], moments, now, waits, BORN))).toEqual(plainly(first, standing));
      }),
    );
  });

  test("are the same whether they are followed at once or in pieces", () => {
    fc.assert(
      fc.property(spot, history, fc.nat(12), (first, acts, cut) => {
        const { moments, now } = play(first, acts);
        const at = Math.min(cut, moments.length);
        // Where it was between the two pieces: what the second found before it.
        const middle = play(first, acts.slice(0, acts.length))
          .moments.slice(at)
          .reduceRight<Whereabouts>(
            (where, { edits: some }) =>
              some.reduce<Whereabouts>(
                (one, edit) =>
                  edit.kind === "folder"
                    ? { ...one!, folder: edit.before }
                    : edit.kind === "defer"
                      ? { ...one!, deferred: edit.before !== null }
                      : one,
                where,
              ),
            now,
          );
        const half = follow([], moments.slice(0, at), middle, waits, BORN);
        // What never waited so far begins to only where it comes to wait.
        const both = follow(half, moments.slice(at), now, waits, BORN);
        expect(both).toEqual(follow([], moments, now, waits, BORN));
        expect(follow(both, [], now, waits, BORN)).toEqual(both);
      }),
    );
  });

  test("one that is deleted for good waits no more; a copy waits since it was made", () => {
    const gone: Moment = {
      run: "g",
      kind: "run",
      actor: "keeper",
      at: 3000,
      edits: [{ kind: "gone", before: false, after: true }],
    };
    const open: Stay = { place: 2, came: 1500, cameBy: null, left: null, leftBy: null, byPerson: false };
    expect(follow([open], [gone], null, waits, BORN)).toEqual([{ ...open, left: 3000, leftBy: "g" }]);
    // Moved first, and deleted before anybody looked.
    const both = follow([], [{ ...gone, run: "m", at: 2000, edits: [moved(1, 9)] }, gone], null, waits, BORN);
    expect(bare(both)).toEqual([{ place: 1, came: BORN, left: 2000, byPerson: false }]);
    expect(follow([], [gone], null, waits, BORN)).toEqual([]);

    const state = { folder: folderId(3), defer: null } as never;
    const copied: Moment = {
      run: "c",
      kind: "run",
      actor: "person",
      at: 2500,
      edits: [{ kind: "exists", before: null, after: { source: 7 as never, state } }],
    };
    const copy = follow([], [copied], { folder: 3, deferred: false }, waits, BORN);
    expect(copy).toEqual([{ place: 3, came: 2500, cameBy: "c", left: null, leftBy: null, byPerson: false }]);
    const back: Moment = {
      ...copied,
      kind: "undo",
      at: 2600,
      edits: [{ kind: "exists", before: { source: 7 as never, state }, after: null }],
    };
    expect(follow(copy, [back], null, waits, BORN)).toEqual([]);
  });

  test("what was seen a moment later is not begun again by the entry that brought it", () => {
    const seen: Stay = { place: 1, came: BORN, cameBy: null, left: null, leftBy: null, byPerson: false };
    const late: Moment = { run: "b", kind: "run", actor: "person", at: 1200, edits: [moved(9, 1)] };
    expect(follow([seen], [late], { folder: 1, deferred: false }, waits, BORN)).toEqual([seen]);
  });

  test("a clock that is behind makes no stay end before it began", () => {
    const late: Moment = { run: "a", kind: "run", actor: "person", at: BORN - 500, edits: [moved(1, 9)] };
    expect(bare(follow([], [late], { folder: 9, deferred: false }, waits, BORN))).toEqual([
      { place: 1, came: BORN, left: BORN, byPerson: true },
    ]);
  });

  test("what says nothing of where a message is is no part of it", () => {
    expect(ofPace({ kind: "read", before: false, after: true })).toBe(false);
    expect(ofPace(moved(1, 2))).toBe(true);
    expect(ofPace(deferred(true))).toBe(true);
    expect(ofPace({ kind: "gone", before: false, after: true })).toBe(true);
  });
});
