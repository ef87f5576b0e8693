import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { threadId, type ThreadId } from "../id";
import { baseSubject, placeInThreads, SPAN_MS, type Met, type ThreadItem } from ".";

/** Places items batch by batch, as an import does, and says which items share a thread. */
function groups(batches: readonly (readonly ThreadItem[])[]): Map<ThreadItem, ThreadId> {
  let next = 1;
  const byId = new Map<string, ThreadId>();
  const bySubject = new Map<string, Met>();
  const out = new Map<ThreadItem, ThreadId>();
  for (const batch of batches) {
    const placed = placeInThreads(batch, { byId, bySubject }, () => threadId(next++));
    for (const [into, from] of placed.merged) {
      for (const map of [byId, out] as Map<unknown, ThreadId>[])
        for (const [key, thread] of map) if (thread === from) map.set(key, into);
      for (const [key, met] of bySubject) if (met.thread === from) bySubject.set(key, { ...met, thread: into });
    }
    for (const [id, thread] of placed.byId) byId.set(id, thread);
    for (const [subject, met] of placed.bySubject) bySubject.set(subject, met);
    batch.forEach((item, i) => out.set(item, placed.threads[i]!));
  }
  return out;
}
const partition = (items: readonly ThreadItem[], threads: Map<ThreadItem, ThreadId>) =>
  JSON.stringify(items.map((a) => items.map((b) => threads.get(a) === threads.get(b))));

const name = fc.integer({ min: 1, max: 8 }).map((n) => `<${n}@x>`);
const arbItem: fc.Arbitrary<ThreadItem> = fc.record({
  messageId: fc.option(name),
  references: fc.uniqueArray(name, { maxLength: 3 }),
  subject: fc.constant(""),
  isReply: fc.boolean(),
  people: fc.constant([]),
  dateMs: fc.constant(0),
});

describe("threads by ids", () => {
  test("do not depend on the order of arrival, nor on how it is cut into batches", () => {
    fc.assert(
      fc.property(
        fc
          .array(arbItem, { minLength: 1, maxLength: 10 })
          .chain((items) =>
            fc.tuple(
              fc.constant(items),
              fc.shuffledSubarray(items, { minLength: items.length }),
              fc.integer({ min: 1, max: 4 }),
            ),
          ),
        ([items, shuffled, size]) => {
          const batches = Array.from({ length: Math.ceil(shuffled.length / size) }, (_, i) =>
            shuffled.slice(i * size, (i + 1) * size),
          );
          expect(partition(items, groups(batches))).toBe(partition(items, groups([items])));
        },
      ),
      { numRuns: 800 },
    );
  });
});

describe("threads by subject", () => {
  const DAY = 86_400_000;
  let count = 0;
  /** A message that names no other, so that only its subject can tell what it belongs to. */
  const item = (subject: string, isReply: boolean, people: readonly string[], day = 0): ThreadItem => ({
    messageId: `<${count++}@x>`,
    references: [],
    subject,
    isReply,
    people,
    dateMs: day * DAY,
  });
  const [ines, okafor, marsh] = ["ines@larch.example", "okafor@post.example", "marsh@post.example"];
  const joined = (a: ThreadItem, b: ThreadItem, ...others: ThreadItem[]) => {
    const threads = groups([...others, a, b].map((one) => [one]));
    return threads.get(a) === threads.get(b);
  };
  test("a reply that names nothing joins where one of its people was met; a new message does not", () => {
    expect(joined(item("beds", false, [ines]), item("beds", true, [ines]))).toBe(true);
    expect(joined(item("beds", false, [ines, okafor]), item("beds", true, [marsh, okafor]))).toBe(true);
    expect(joined(item("beds", false, [ines]), item("beds", false, [ines]))).toBe(false);
    expect(joined(item("beds", false, [ines]), item("gas", true, [ines]))).toBe(false);
  });
  test("strangers who write about the same are threads of their own, be they sixty", () => {
    const strangers = Array.from({ length: 64 }, (_, i) => item("request", true, [`s${i}@post.example`]));
    expect(new Set(groups([strangers]).values()).size).toBe(64);
    expect(new Set(groups(strangers.map((one) => [one])).values()).size).toBe(64);
  });
  test("for thirty days, before as after", () => {
    const at = (day: number) => joined(item("beds", false, [ines], 100), item("beds", true, [ines], day));
    expect([69, 70, 130, 131].map(at)).toEqual([false, true, true, false]);
    expect(SPAN_MS).toBe(30 * DAY);
  });
  test("of several it joins the one whose date is last", () => {
    const [old, late, reply] = [
      item("beds", false, [ines], 1),
      item("beds", false, [okafor], 5),
      item("beds", true, [ines, okafor], 9),
    ];
    const threads = groups([[old, late], [reply]]);
    expect(threads.get(reply)).toBe(threads.get(late));
    expect(threads.get(reply)).not.toBe(threads.get(old));
    // What comes in late does not hide what is newer.
    const earlier = item("beds", false, [okafor], 2);
    expect(joined(late, reply, earlier)).toBe(true);
    const again = groups([[late], [earlier], [reply]]);
    expect(again.get(reply)).toBe(again.get(late));
  });
  test("nothing joins by an empty subject, nor where it names what it answers", () => {
    expect(joined(item("", false, [ines]), item("", true, [ines]))).toBe(false);
    const naming = { ...item("beds", true, [ines]), references: ["<elsewhere@x>"] };
    expect(joined(item("beds", false, [ines]), naming)).toBe(false);
  });
});

describe("a subject", () => {
  test.each([
    ["Re: Beds", "Beds", true],
    ["AW: Re[2]: [huts] Fwd: Beds", "Beds", true],
    ["re : Beds", "Beds", true],
    ["[huts] Beds", "Beds", false],
    ["[huts]", "[huts]", false],
    ["Re:", "", true],
    ["Reply: Beds", "Reply: Beds", false],
    ["Re(1234): Beds", "Re(1234): Beds", false],
    [`${"x".repeat(990)} Re: beds`, `${"x".repeat(990)} Re: bed`, false],
    [`[${"x".repeat(41)}] Beds`, `[${"x".repeat(41)}] Beds`, false],
    [`[${"x".repeat(40)}] Beds`, "Beds", false],
  ])("%s", (subject, base, isReply) => {
    expect(baseSubject(subject)).toEqual({ base, isReply });
  });
});
