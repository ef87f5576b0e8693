import fc from "fast-check";
import { beforeAll, expect, test } from "vitest";
import { context, directory } from "../../../../tests/fixtures/macro";
import { called, done, factsFrom, mail, rules } from "../../../../tests/fixtures/sieve";
import type { Facts } from "../../macro";
import { readNarrow } from "../../narrow";
import { handOut, takeIn } from ".";

const MESSAGES = 30;
let facts: readonly Facts[];

beforeAll(async () => {
  const some = fc.sample(mail, { numRuns: MESSAGES, seed: 20261127 });
  facts = await Promise.all(some.map((make, i) => factsFrom(make(`m${i}@huts.example`))));
});

test("rules handed out and taken in again do the same with every message", () => {
  fc.assert(
    fc.property(rules, called, (book, inner) => {
      const { script, notes } = handOut(book, context, [inner]);
      fc.pre(notes.every(({ left }) => left === null || /^(A rule before it|It means no mail)/.test(left)));
      const taken = takeIn(script, directory, context.zone);
      if (!taken.ok) throw new Error(JSON.stringify(taken.problems));
      // One that branches deeper than a macro may.
      fc.pre(!taken.left.some(({ why }) => why.includes("than a macro may hold")));
      expect(taken.left, script).toEqual([]);
      const own = book.map((rule) => ({ ...rule, ...rule.macro! }));
      const again = taken.rules.map((rule) => ({ ...rule, settings: {} }));
      for (const fact of facts)
        expect(done(again, fact, []), `${script}\n${JSON.stringify(again)}`).toEqual(done(own, fact, [inner]));
    }),
    { numRuns: 150 },
  );
});

test("whatever is written, it is taken or left, and nothing breaks", () => {
  const piece = fc.constantFrom(
    ...[
      "if",
      "elsif",
      "else",
      "not",
      "anyof",
      "allof",
      "true",
      "false",
      "header",
      "address",
      "size",
      ":over",
      ":is",
      "hasflag",
    ],
    ...[
      '"from"',
      '["a@b.example", "c@d.example"]',
      '["subject"]',
      '"${x}"',
      "5",
      "(",
      ")",
      ",",
      "{",
      "}",
      ";",
      "{ stop; }",
    ],
    ...[
      'fileinto "A/B";',
      "keep;",
      "discard;",
      "stop;",
      'addflag "\\\\Seen";',
      "exists",
      "string",
      "set",
      "date",
      "body",
    ],
  );
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 14 }), (pieces) => {
      const taken = takeIn(pieces.join(" "), directory, context.zone);
      const names = [...directory.folders, { path: "A/B", role: null, id: 99 }] as typeof directory.folders;
      if (!taken.ok) expect(taken.problems.length).toBeGreaterThan(0);
      else
        for (const { narrow, steps } of taken.rules) {
          expect(steps.length).toBeGreaterThan(0);
          expect(readNarrow(narrow, { ...context, directory: { ...directory, folders: names } }).ok).toBe(true);
        }
    }),
    { numRuns: 3000 },
  );
});
