import fc from "fast-check";
import { expect, test } from "vitest";
import { joined, pack, settled, Table, textOf, TextTable, type Packed } from "./tables";

/** Of one to four bytes a letter, some longer than a table has room for at first; halves of letters are no text. */
const text = fc.oneof(
  { weight: 4, arbitrary: fc.string({ unit: "binary", maxLength: 12 }).map((one) => one.toWellFormed()) },
  fc.constantFrom("", "a", "ä", "山小屋", "🏔", "Zürich"),
  fc.tuple(fc.constantFrom("x", "é", "峠", "🏔"), fc.integer({ min: 300, max: 2500 })).map(([one, n]) => one.repeat(n)),
);
const texts = fc.array(text, { maxLength: 90 });

const back = (packed: Packed): string[] => Array.from(packed.ends, (_, n) => textOf(packed, n));
/** What the bytes are, by the platform alone. */
const plain = (all: readonly string[]) => [...Buffer.from(all.join(""), "utf8")];

test("packed texts read back, each by its number, with nothing between them", () => {
  fc.assert(
    fc.property(texts, (all) => {
      const packed = pack(all);
      expect(back(packed)).toEqual(all);
      expect([...packed.bytes]).toEqual(plain(all));
      expect(textOf(packed, all.length)).toBe("");
    }),
  );
});

test("a table gives equal texts one number, different ones one after the other, as text or as bytes", () => {
  fc.assert(
    fc.property(texts, fc.array(fc.boolean(), { minLength: 1 }), (all, asBytes) => {
      const table = new TextTable();
      const different: string[] = [];
      for (const [i, one] of all.entries()) {
        if (!different.includes(one)) different.push(one);
        // Bytes stand somewhere in others.
        const bytes = Buffer.from(`..${one}.`, "utf8");
        const number = asBytes[i % asBytes.length] ? table.numberOf(bytes, 2, bytes.length - 1) : table.number(one);
        expect(number).toBe(different.indexOf(one));
      }
      expect(back(table.packed())).toEqual(different);
      expect([...table.packed().bytes]).toEqual(plain(different));
    }),
  );
});

test("thousands of texts are told apart", () => {
  const table = new TextTable();
  const all = Array.from({ length: 5000 }, (_, n) => `guest${n}@post.example`);
  expect(all.map((one) => table.number(one))).toEqual(all.map((_, n) => n));
  expect(all.map((one) => table.number(one))).toEqual(all.map((_, n) => n));
});

test("two tables joined are the texts of both, one after the other", () => {
  fc.assert(
    fc.property(texts, texts, (first, then) => {
      expect(back(joined(pack(first), pack(then)))).toEqual([...first, ...then]);
      const { bytes, ends } = settled({ ...pack(first), added: then });
      expect(back({ bytes, ends })).toEqual([...first, ...then]);
    }),
  );
});

test("values have the numbers of their keys, and the first of each key stays", () => {
  const table = new Table<string>();
  expect(["b", "a", "b", "c", "a"].map((key, i) => table.number(key, `${key}${i}`))).toEqual([0, 1, 0, 2, 1]);
  expect(table.values).toEqual(["b0", "a1", "c3"]);
});
