import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { threadId, type ThreadId } from "../id";
import { placeInThreads, type ThreadItem } from ".";

/** Places items batch by batch, as an import does, and says which items share a thread. */
function groups(batches: readonly (readonly ThreadItem[])[]): Map<ThreadItem, ThreadId> {
  let next = 1;
  const byId = new Map<string, ThreadId>();
  const bySubject = new Map<string, ThreadId>();
  const out = new Map<ThreadItem, ThreadId>();
  for (const batch of batches) {
    const placed = placeInThreads(batch, { byId, bySubject }, () => threadId(next++));
    for (const [into, from] of placed.merged)
      for (const map of [byId, bySubject, out] as Map<unknown, ThreadId>[])
        for (const [key, thread] of map) if (thread === from) map.set(key, into);
    for (const [id, thread] of placed.byId) byId.set(id, thread);
    for (const [subject, thread] of placed.bySubject) bySubject.set(subject, thread);
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
  const item = (subject: string, isReply: boolean, messageId: string | null = null): ThreadItem => ({
    messageId,
    references: [],
    subject,
    isReply,
  });
  test("a reply that names nothing joins the newest of its subject; a new message does not", () => {
    const [first, reply, fresh, other] = [
      item("beds", false, "<1@x>"),
      item("beds", true),
      item("beds", false, "<2@x>"),
      item("gas", true),
    ];
    const threads = groups([[first], [reply, fresh], [other]]);
    expect(threads.get(reply)).toBe(threads.get(first));
    expect(threads.get(fresh)).not.toBe(threads.get(first));
    expect(threads.get(other)).not.toBe(threads.get(reply));
  });
  test("nothing joins by an empty subject", () => {
    const [a, b] = [item("", false), item("", true)];
    const threads = groups([[a, b]]);
    expect(threads.get(a)).not.toBe(threads.get(b));
  });
});
