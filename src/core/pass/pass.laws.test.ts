import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { endOf, jumpIn, minutesLeft, paceOf, progressOf, type Deed } from ".";

const deed = (message: number, at: number, macro = "Archive", ms = 1000): Deed => ({
  message,
  run: `run ${message} ${at}`,
  macro,
  ms,
  at,
});
const MINUTE = 60_000;

describe("progress", () => {
  test("each message of the queue is counted once, by what holds of it most", () => {
    const queue = fc.uniqueArray(fc.integer({ min: 1, max: 40 }));
    fc.assert(
      fc.property(queue, fc.func(fc.boolean()), fc.func(fc.boolean()), fc.func(fc.boolean()), (queue, d, s, o) => {
        const [decided, skipped, owed] = [d, s, o].map((of) => queue.filter((id) => of(id))) as [
          number[],
          number[],
          number[],
        ];
        const walk = { total: queue.length, decided: new Set(decided), skipped: new Set(skipped) };
        const progress = progressOf(walk, (id) => owed.includes(id));
        const count = (holds: (id: number) => boolean) => queue.filter(holds).length;
        expect(progress).toEqual({
          done: count((id) => decided.includes(id) && !owed.includes(id)),
          aside: count((id) => decided.includes(id) && owed.includes(id)),
          skipped: count((id) => !decided.includes(id) && skipped.includes(id)),
          left: count((id) => !decided.includes(id) && !skipped.includes(id)),
        });
      }),
    );
  });
});

describe("pace", () => {
  test("is of the last ten minutes, or since the pass was gone on with", () => {
    const deeds = [0, 1, 2, 12, 13, 14, 15].map((minute) => deed(minute, minute * MINUTE));
    // Ten minutes back from the 16th reach to the 6th: four were decided since.
    expect(paceOf(deeds, -1, 16 * MINUTE)).toBeCloseTo(0.4);
    expect(paceOf(deeds, 11 * MINUTE, 16 * MINUTE)).toBeCloseTo(0.8);
    expect(paceOf(deeds, 14.5 * MINUTE, 16 * MINUTE)).toBeNull();
  });

  test("a message decided twice is one, and what is to come does not count", () => {
    expect(paceOf([deed(1, 1 * MINUTE), deed(1, 2 * MINUTE), deed(2, 3 * MINUTE)], 0, 4 * MINUTE)).toBeCloseTo(0.5);
    expect(paceOf([deed(1, 1 * MINUTE), deed(2, 9 * MINUTE)], 0, 4 * MINUTE)).toBeNull();
    expect(paceOf([], 5, 5)).toBeNull();
    // What was decided in the very instant the time begins belongs to what was before.
    expect(paceOf([deed(1, 0), deed(2, 1 * MINUTE), deed(3, 2 * MINUTE)], 0, 4 * MINUTE)).toBeCloseTo(0.5);
  });

  test("tells the minutes that are left, rounded up", () => {
    expect([minutesLeft(40, 14), minutesLeft(0, 2), minutesLeft(28, 14)]).toEqual([3, 0, 2]);
    expect([minutesLeft(40, null), minutesLeft(40, 0)]).toEqual([null, null]);
  });
});

describe("the end", () => {
  test("tells macros by how much they decided, and how long decisions took", () => {
    const deeds = [
      deed(1, 1, "Archive", 2000),
      deed(2, 2, "Trash", 1000),
      deed(3, 3, "Archive", 9000),
      deed(4, 4, "Flag", 4000),
    ];
    const end = endOf(deeds);
    expect(end.macros).toEqual([
      { name: "Archive", count: 2 },
      { name: "Flag", count: 1 },
      { name: "Trash", count: 1 },
    ]);
    expect(end.median).toBe(3000);
    expect(end.slowest?.message).toBe(3);
    expect(endOf([deed(1, 1, "a", 3), deed(2, 2, "a", 5)]).median).toBe(4);
    expect(endOf(deeds.slice(0, 3)).median).toBe(2000);
    // Macros that decided as much as each other stand by name.
    expect(endOf([deed(1, 1, "b"), deed(2, 2, "a")]).macros.map(({ name }) => name)).toEqual(["a", "b"]);
    expect(endOf([])).toEqual({ macros: [], median: null, slowest: null });
  });

  test("of a message decided again the last decision counts, with the time of all", () => {
    const again = [
      deed(1, 5, "Trash", 500),
      deed(1, 1, "Archive", 2000),
      deed(2, 9, "Trash", 100),
      deed(3, 10, "Trash", 200),
    ];
    const end = endOf(again);
    expect(end.macros).toEqual([{ name: "Trash", count: 3 }]);
    expect(end.slowest).toMatchObject({ message: 1, macro: "Trash", ms: 2500 });
    expect(end.median).toBe(200);
  });
});

describe("jumping", () => {
  const texts = ["Ines Reed Beds", "Fire Office Certificates", "Bo Larch Wood", "Ines Reed Ópera"];
  const jump = (typed: string, from = 0) => jumpIn(typed, texts.length, from, (place) => texts[place]!);

  test("goes to a number, or says which there are", () => {
    expect(jump(" 3 ")).toEqual({ ok: true, place: 2 });
    expect(jump("1")).toEqual({ ok: true, place: 0 });
    expect(jump("4")).toEqual({ ok: true, place: 3 });
    for (const typed of ["0", "5"]) expect(jump(typed)).toEqual({ ok: false, why: "There are 4: write 1 to 4." });
    expect(jumpIn("1", 0, -1, () => "")).toMatchObject({ ok: false });
  });

  test("looks for words from the present place on and around the end, without case or accents", () => {
    expect(jump("ines")).toEqual({ ok: true, place: 3 });
    expect(jump("ines", 3)).toEqual({ ok: true, place: 0 });
    expect(jump("OPERA", 3)).toEqual({ ok: true, place: 3 });
    expect(jump("lar", -1)).toEqual({ ok: true, place: 2 });
    expect(jump("arch")).toMatchObject({ ok: false, why: expect.stringContaining("arch") as string });
    expect(jump("  ")).toMatchObject({ ok: false });
    expect(jumpIn("x", 0, -1, () => "x")).toMatchObject({ ok: false });
  });
});
