import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Facts } from "@/core/macro";
import { handOut, takeIn } from "@/core/rule/sieve";
import { context, directory } from "../fixtures/macro";
import { called, done, factsFrom, mail, rules, scripts } from "../fixtures/sieve";
import { startOracle, type Oracle, type Stored } from "../fixtures/sieve-oracle";

/**
 * Rules as Sieve scripts, against Debian's interpreter: what it would do with each message of a mailbox, and what
 * our rules do. Each rule book is a case for each message.
 */

const MESSAGES = 40;
const BOOKS = 120;
const SEED = 20261127;

let oracle: Oracle;
let facts: Map<string, Facts>;

beforeAll(async () => {
  const messages = fc.sample(mail, { numRuns: MESSAGES, seed: SEED }).map((make, i) => {
    const id = `m${i}@huts.example`;
    return { id, raw: make(id) };
  });
  facts = new Map(await Promise.all(messages.map(async ({ id, raw }) => [id, await factsFrom(raw)] as const)));
  oracle = await startOracle(messages);
});
afterAll(() => oracle.end());

/** What two copies in one folder come to is the interpreter's own affair: it makes one of them. */
const isTwice = (stored: readonly Stored[]): boolean =>
  new Set(stored.map(({ folder }) => folder)).size < stored.length;
/** Rules that are left out for nothing that they do. */
const isSaid = ({ left }: { left: string | null }): boolean =>
  left === null || left.startsWith("A rule before it") || left.startsWith("It means no mail");

describe("rules as scripts", () => {
  test("do with each message what the rules do", () => {
    let cases = 0;
    fc.assert(
      fc.property(rules, called, (book, inner) => {
        const { script, notes } = handOut(book, context, [inner]);
        fc.pre(notes.every(isSaid));
        const theirs = oracle.run(script);
        const own = book.map((rule) => ({ ...rule, ...rule.macro! }));
        for (const [id, fact] of facts) {
          const ours = done(own, fact, [inner]);
          if (isTwice(ours)) continue;
          expect(theirs.get(id), `${script}\n${id}`).toEqual(ours);
          cases++;
        }
      }),
      { numRuns: BOOKS, seed: SEED },
    );
    expect(cases).toBeGreaterThan(2000);
  });

  test("of somebody else, do as rules what they did as scripts", () => {
    let cases = 0;
    fc.assert(
      fc.property(scripts, (script) => {
        const taken = takeIn(script, directory, context.zone);
        if (!taken.ok) throw new Error(`${script}\n${JSON.stringify(taken.problems)}`);
        const isReached = ({ why }: { why: string }) => !why.startsWith("It is never reached");
        const near = taken.rules.flatMap((rule) => rule.near).filter((text) => !text.includes("thrown away"));
        // What is said to mean a little more or less is looked at by hand, in the core.
        fc.pre(taken.left.filter(isReached).length === 0 && near.length === 0);
        const theirs = oracle.run(script);
        const own = taken.rules.map((rule) => ({ ...rule, settings: {} }));
        for (const [id, fact] of facts) {
          const ours = done(own, fact, []);
          if (isTwice(ours)) continue;
          // No script files anything into Trash: what is there was thrown away.
          const kept = ours.filter(({ folder }) => folder !== "Trash");
          expect(theirs.get(id), `${script}\n${JSON.stringify(own, null, 1)}\n${id}`).toEqual(kept);
          cases++;
        }
      }),
      { numRuns: BOOKS, seed: SEED },
    );
    expect(cases).toBeGreaterThan(2000);
  });
});
