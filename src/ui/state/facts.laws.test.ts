import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { messageId } from "@/core/id";
import { columnRow, sentColumns } from "../../../tests/fixtures/columns";
import { guessOf, likelyFolders } from "./facts";
import { Mailbox } from "./mailbox";

const MINE = 64;
const OWN = new Set([5, 6, 7]);

/** Addresses that look like each other: in capitals, with accents, one domain the end of another, none at all. */
const ADDRESSES = [
  "ines@larch.example",
  "INES@Larch.example",
  "ines@high-larch.example",
  "bo@larch.example",
  "bo@lärch.example",
  "bo@larch.example.example",
  "larch.example",
  "",
  "nobody@--",
  ...Array.from({ length: 70 }, (_, n) => `guest@hut${n}.example`),
];

const message = fc.record({
  address: fc.oneof(fc.constantFrom(...ADDRESSES.slice(0, 9)), fc.constantFrom(...ADDRESSES)),
  folder: fc.constantFrom(1, 5, 6, 7),
  mine: fc.nat(9).map((n) => n === 0),
});

/** The oracle: for one address, a plain look at every message. */
function tally(messages: readonly { address: string; folder: number; mine: boolean }[], by: (a: string) => boolean) {
  const counts = new Map<number, number>();
  for (const { address, folder, mine } of messages)
    if (!mine && OWN.has(folder) && by(address.toLowerCase())) counts.set(folder, (counts.get(folder) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1]);
}
const domain = (address: string) => address.split("@").at(-1)!;

describe("where mail of a sender goes, looked up for few or counted for all", () => {
  test("is what a look at every message says", () => {
    fc.assert(
      fc.property(fc.array(message, { minLength: 1, maxLength: 120 }), fc.shuffledSubarray(ADDRESSES), (all, asked) => {
        const mailbox = new Mailbox();
        mailbox.merge(
          sentColumns([
            ...all.map(({ address, folder, mine }, n) =>
              columnRow(n + 1, { fromAddress: address, folder, traits: mine ? MINE : 0 }),
            ),
            ...asked.map((address, n) => columnRow(1000 + n, { fromAddress: address, folder: 1 })),
          ]),
        );
        const guess = guessOf(mailbox.columns, OWN);
        asked.forEach((address, n) => {
          const low = address.toLowerCase();
          const habits = [tally(all, (a) => a === low), tally(all, (a) => domain(a) === domain(low))];
          const clear = habits.map((habit) => {
            const sum = habit.reduce((total, [, count]) => total + count, 0);
            const [first] = habit;
            return first && first[1] >= 2 && first[1] >= 0.6 * sum ? first[0] : null;
          });
          expect(guess(mailbox.facts(messageId(1000 + n))!)).toBe(clear[0] ?? clear[1]);
          const likely = likelyFolders(mailbox.columns, OWN, address);
          expect([...likely].sort()).toEqual([...new Set(habits.flat().map(([folder]) => folder))].sort());
          const best = habits[0]![0] ?? habits[1]![0];
          const most = (habits[0]![0] ? habits[0]! : habits[1]!).filter(([, count]) => count === best?.[1]);
          if (best) expect(most.map(([folder]) => folder)).toContain(likely[0]);
        });
      }),
      { numRuns: 150 },
    );
  });
});
