import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { filingMail as mail } from "../../../tests/fixtures/filing";
import { folderId } from "../id";
import { Taught, whyJunk, type FilingMail, type Lesson } from ".";

/** What is junk, learned from a person's verdicts beside where mail belongs. */

const MONTH_MS = 30 * 86_400_000;
const random = (seed: number) => {
  let n = seed;
  return () => (n = (n * 1103515245 + 12345) % 2147483648) / 2147483648;
};

/** Mail as it comes: some senders write junk only, some never, and some words stand in both. */
function* stream(seed: number, count: number): Generator<{ mail: FilingMail; isJunk: boolean; atMs: number }> {
  const next = random(seed);
  const pick = <T>(all: readonly T[]): T => all[Math.floor(next() * all.length)]!;
  const JUNKY = ["offer", "winner", "cheap", "pills", "invoice", "urgent"];
  const PLAIN = ["hut", "booking", "stove", "invoice", "weather", "urgent"];
  for (let i = 0; i < count; i++) {
    const isJunk = next() < 0.3;
    // Junk comes from new addresses mostly; a third of what is wanted does too.
    const isNew = next() < (isJunk ? 0.8 : 0.33);
    const from = isNew
      ? `new${i}@n${i % 97}.example`
      : `${isJunk ? "pest" : "friend"}${Math.floor(next() * 9)}@met.example`;
    const words = Array.from({ length: 6 }, () => pick(next() < 0.75 === isJunk ? JUNKY : PLAIN));
    yield { mail: mail(from, { words, subject: words[0]! }), isJunk, atMs: i * 3_600_000 };
  }
}

test("its size is that of what was learned, and nothing once all of it was taken back", () => {
  const taught = Taught.nothing();
  const lessons: Lesson[] = [];
  const sizes = [taught.size];
  for (const { mail: one, isJunk, atMs } of stream(4, 60)) {
    lessons.push(taught.learn(one, isJunk ? null : folderId(7), isJunk, atMs));
    sizes.push(taught.size);
  }
  expect(sizes[0]).toBe(0);
  expect(sizes).toEqual([...sizes].sort((a, b) => a - b));
  const kept = taught.toJSON();
  expect(taught.size).toBe(kept.places.counts.length + kept.verdicts.counts.length);
  for (const lesson of lessons) taught.unlearn(lesson);
  expect(taught.size).toBe(0);
});

describe("verdicts", () => {
  test("nothing is said before there was junk, and mail that is none", () => {
    const taught = Taught.nothing();
    expect(taught.junkiness(mail("a@b.example"), 0)).toBeNull();
    taught.learn(mail("a@b.example"), null, true, 0);
    expect(taught.junkiness(mail("a@b.example"), 0)).toBeNull();
    taught.learn(mail("c@d.example"), null, false, 0);
    expect(taught.junkiness(mail("a@b.example"), 0)!.probability).toBeGreaterThan(0.5);
    expect(taught.junkiness(mail("c@d.example"), 0)!.probability).toBeLessThan(0.5);
    expect(taught.judged()).toEqual({ junk: 1, wanted: 1 });
  });

  test("predict, then learn: right in most, and as sure as it says, over three streams", () => {
    for (const seed of [1, 2, 3]) {
      const taught = Taught.nothing();
      let [right, told] = [0, 0];
      const bins = Array.from({ length: 10 }, () => ({ n: 0, said: 0, was: 0 }));
      for (const { mail: one, isJunk, atMs } of stream(seed, 3000)) {
        const junk = taught.junkiness(one, atMs);
        if (junk && atMs > 500 * 3_600_000) {
          told++;
          if (junk.probability >= 0.5 === isJunk) right++;
          const bin = bins[Math.min(9, Math.floor(junk.probability * 10))]!;
          bin.n++;
          bin.said += junk.probability;
          bin.was += Number(isJunk);
        }
        taught.learn(one, null, isJunk, atMs);
      }
      const error = bins.reduce((sum, { said, was }) => sum + Math.abs(said - was), 0) / told;
      expect(told).toBeGreaterThan(2000);
      expect(right / told).toBeGreaterThan(0.9);
      expect(error).toBeLessThan(0.03);
    }
  });

  test("are not told by the folders a thread is in", () => {
    const taught = Taught.nothing();
    // These two numbers are also the places of its own that it tells apart.
    for (let i = 0; i < 9; i++) taught.learn(mail(`a${i}@b.example`, { thread: [folderId(1)] }), null, false, 0);
    for (let i = 0; i < 9; i++) taught.learn(mail(`c${i}@d.example`, { thread: [folderId(2)] }), null, true, 0);
    const [one, two] = [1, 2].map((n) => taught.junkiness(mail("x@y.example", { thread: [folderId(n)] }), 0)!);
    expect(one!.probability).toBe(two!.probability);
  });

  test("say what spoke for them, of junk and not of a place", () => {
    const taught = Taught.nothing();
    for (let i = 0; i < 12; i++) taught.learn(mail("pest@p.example", { words: ["pills"] }), null, true, 0);
    for (let i = 0; i < 12; i++) taught.learn(mail("ida@f.example", { words: ["stove"] }), null, false, 0);
    const why = taught.junkiness(mail("pest@p.example", { words: ["pills"] }), 0)!.reasons.map(whyJunk);
    expect(why).toContain("12 messages from this sender are junk");
    expect(whyJunk({ kind: "word", key: "word pills", times: 3 })).toBe("“pills” in its text, in junk 3 times");
    expect(whyJunk({ kind: "list", key: "list a.b", times: 1 })).toBe("1 message of the list a.b is junk");
  });

  test("where mail is filed says that it is wanted, and is learned as a place beside it", () => {
    const taught = Taught.nothing();
    const lesson = taught.learn(mail("ida@f.example"), folderId(7), false, 0);
    taught.learn(mail("pest@p.example"), null, true, 0);
    expect(taught.places.rank(mail("ida@f.example"), 0)[0]!.folder).toBe(7);
    expect(taught.places.learned(folderId(1))).toBe(0);
    taught.unlearn(lesson);
    expect(taught.places.rank(mail("ida@f.example"), 0)).toEqual([]);
    expect(taught.judged()).toEqual({ junk: 1, wanted: 0 });
  });
});

describe("lessons", () => {
  const arb = fc.array(
    fc.record({
      from: fc.constantFrom("a@x.example", "b@x.example", "c@y.example"),
      word: fc.constantFrom("stove", "pills", "hut"),
      place: fc.option(fc.constantFrom(3, 4, 5)),
      isJunk: fc.boolean(),
      month: fc.nat(20),
    }),
    { minLength: 1, maxLength: 25 },
  );
  test("unlearned in any order, or learned elsewhere, come to the same to the last bit; so does what is kept and read", () => {
    fc.assert(
      fc.property(arb, arb, fc.infiniteStream(fc.nat()), (first, more, order) => {
        const taught = Taught.nothing();
        const teach = (all: typeof first): Lesson[] =>
          all.map(({ from, word, place, isJunk, month }) =>
            taught.learn(
              mail(from, { words: [word] }),
              place === null ? null : folderId(place),
              isJunk && place === null,
              month * MONTH_MS,
            ),
          );
        const kept = teach(first);
        const before = JSON.stringify(taught);
        const lessons = teach(more);
        const all = JSON.stringify(taught);
        const read = Taught.from(JSON.parse(all) as ReturnType<Taught["toJSON"]>);
        expect(JSON.stringify(read)).toBe(all);
        const other = Taught.nothing();
        for (const lesson of [...kept, ...lessons]) other.relearn(JSON.parse(JSON.stringify(lesson)) as Lesson);
        expect(JSON.stringify(other)).toBe(all);
        const left = [...lessons];
        while (left.length > 0) {
          const at = order.next().value % left.length;
          taught.unlearn(left.splice(at, 1)[0]!);
        }
        expect(JSON.stringify(taught)).toBe(before);
        const asked = mail("a@x.example", { words: ["hut"] });
        expect(read.junkiness(asked, 0)).toEqual(other.junkiness(asked, 0));
      }),
      { numRuns: 60 },
    );
  });
});
