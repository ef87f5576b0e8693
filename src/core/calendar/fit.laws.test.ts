import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { firstFree, fit, joined, without, type Span, type Work } from ".";

const GRAIN = 5 * 60_000;
const grains = (count: number) => count * GRAIN;

/** Free stretches of up to five grains, apart from each other. */
const free = fc
  .array(fc.tuple(fc.integer({ min: 1, max: 4 }), fc.integer({ min: 1, max: 5 })), { maxLength: 6 })
  .map((pairs) => {
    const out: Span[] = [];
    let at = 0;
    for (const [gap, length] of pairs) {
      out.push({ start: grains(at + gap), end: grains(at + gap + length) });
      at += gap + length;
    }
    return out;
  });
const works = fc
  .array(
    fc.record({
      due: fc.option(fc.integer({ min: 0, max: 40 }).map(grains), { freq: 5 }),
      length: fc.integer({ min: 1, max: 5 }).map(grains),
      pressing: fc.boolean(),
    }),
    { maxLength: 6 },
  )
  .map((list) => list.map((work, i): Work => ({ ...work, id: i + 1 })));

/** The grains of free time one by one: the tests' own picture of a day. */
const cells = (spans: readonly Span[]): number[] =>
  spans.flatMap(({ start, end }) => Array.from({ length: (end - start) / GRAIN }, (_, i) => start / GRAIN + i));

/** Whether all of some work can be in time: every set of what is due first has its grains. By trying every filling. */
function canAll(open: readonly number[], some: readonly Work[]): boolean {
  const [first, ...rest] = [...some].sort((a, b) => b.due! - a.due!);
  if (!first) return true;
  // What is due last takes the last grains it may: those are of least use to the others.
  const mine = open.filter((cell) => grains(cell + 1) <= first.due!).slice(-first.length / GRAIN);
  if (mine.length < first.length / GRAIN) return false;
  return canAll(
    open.filter((cell) => !mine.includes(cell)),
    rest,
  );
}

const subsets = <T>(list: readonly T[]): T[][] =>
  list.reduce<T[][]>((all, one) => [...all, ...all.map((set) => [...set, one])], [[]]);

/** How many can be in time of all sets of work that have some of it. */
const most = (spans: readonly Span[], all: readonly Work[], having: readonly Work[] = []): number =>
  Math.max(
    ...subsets(all.filter(({ due }) => due !== null))
      .filter((set) => having.every((one) => set.includes(one)) && canAll(cells(spans), set))
      .map((set) => set.length),
  );

describe("fit", () => {
  test("overlaps nothing, stays within what is free, and gives each its whole length or nothing", () => {
    fc.assert(
      fc.property(free, works, (spans, all) => {
        const { placed, left } = fit(spans, all);
        const taken = cells(placed);
        expect(new Set(taken).size).toBe(taken.length);
        for (const cell of taken) expect(cells(spans)).toContain(cell);
        for (const { id, length } of all) {
          const own = cells(placed.filter((one) => one.id === id)).length * GRAIN;
          expect(own).toBe(left.includes(id) ? 0 : length);
        }
      }),
      { numRuns: 400 },
    );
  });

  test("is in time with as many as can be, those that press first, then beside them: against every choice", () => {
    fc.assert(
      fc.property(free, works, (spans, all) => {
        const { placed, proofs } = fit(spans, all);
        const inTime = all.filter(
          ({ id, due }) =>
            due !== null &&
            placed.some((one) => one.id === id) &&
            placed.filter((one) => one.id === id).every(({ end }) => end <= due),
        );
        const first = inTime.filter((one) => one.pressing);
        expect(first).toHaveLength(
          most(
            spans,
            all.filter((one) => one.pressing),
          ),
        );
        const unpressed = all.filter((one) => !one.pressing);
        expect(inTime).toHaveLength(most(spans, [...first, ...unpressed], first));
        expect(all.filter(({ due }) => due !== null).length - proofs.length).toBe(inTime.length);
      }),
      { numRuns: 600 },
    );
  });

  test("each proof holds: what it names is due by then, and is more than there is room for", () => {
    fc.assert(
      fc.property(free, works, (spans, all) => {
        for (const { id, by, work, needs, room } of fit(spans, all).proofs) {
          const named = all.filter((one) => work.includes(one.id));
          expect(work).toContain(id);
          expect(named.every(({ due }) => due! <= by)).toBe(true);
          expect(named.reduce((sum, { length }) => sum + length, 0)).toBe(needs);
          expect(cells(spans).filter((cell) => grains(cell + 1) <= by).length * GRAIN).toBe(room);
          expect(needs).toBeGreaterThan(room);
          expect(canAll(cells(spans), named)).toBe(false);
        }
      }),
      { numRuns: 400 },
    );
  });

  test("what is due later moves nothing that was placed, where all are in time", () => {
    fc.assert(
      fc.property(free, works, fc.integer({ min: 1, max: 5 }), (spans, all, length) => {
        const before = fit(spans, all);
        const last = Math.max(0, ...all.map(({ due }) => due ?? 0));
        const more = [...all, { id: 99, due: last + GRAIN, length: grains(length), pressing: false }];
        const after = fit(spans, more);
        fc.pre(before.proofs.length === 0 && after.proofs.length === 0);
        const dated = (id: number) => all.some((one) => one.id === id && one.due !== null);
        const of = ({ placed }: typeof before) => placed.filter(({ id }) => dated(id));
        expect(of(after)).toEqual(of(before));
      }),
      { numRuns: 400 },
    );
  });

  test("work is in one piece where there is one that holds it in time", () => {
    const spans = [
      { start: grains(0), end: grains(2) },
      { start: grains(5), end: grains(9) },
    ];
    expect(fit(spans, [{ id: 1, due: grains(9), length: grains(3), pressing: false }]).placed).toEqual([
      { id: 1, start: grains(5), end: grains(8) },
    ]);
    // Due before the second piece has room, it takes what there is.
    expect(fit(spans, [{ id: 1, due: grains(6), length: grains(3), pressing: false }]).placed).toEqual([
      { id: 1, start: grains(0), end: grains(2) },
      { id: 1, start: grains(5), end: grains(6) },
    ]);
    expect(firstFree(spans, grains(3), grains(7))).toBeNull();
  });
});

test("of what is due at once, what presses goes first, then what was made first", () => {
  const spans = [{ start: grains(0), end: grains(9) }];
  const due = grains(9);
  const placed = fit(spans, [
    { id: 3, due, length: grains(1), pressing: false },
    { id: 2, due, length: grains(1), pressing: true },
    { id: 1, due, length: grains(1), pressing: false },
  ]).placed;
  expect(placed.map(({ id }) => id)).toEqual([2, 1, 3]);
});

describe("stretches", () => {
  const some = fc.array(
    fc.tuple(fc.integer({ min: 0, max: 30 }), fc.integer({ min: 0, max: 6 })).map(([start, length]) => ({
      start: grains(start),
      end: grains(start + length),
    })),
    { maxLength: 8 },
  );
  const set = (spans: readonly Span[]) => [...new Set(cells(spans))].sort((a, b) => a - b);

  test("joined, they cover the same, in order and apart", () => {
    fc.assert(
      fc.property(some, (spans) => {
        const all = joined(spans);
        expect(cells(all)).toEqual(set(spans));
        for (let i = 1; i < all.length; i++) expect(all[i]!.start).toBeGreaterThan(all[i - 1]!.end);
      }),
    );
  });

  test("without others, they cover what those do not", () => {
    fc.assert(
      fc.property(some, some, (spans, taken) => {
        const gone = new Set(cells(taken));
        expect(cells(without(spans, taken))).toEqual(set(spans).filter((cell) => !gone.has(cell)));
      }),
    );
  });
});
