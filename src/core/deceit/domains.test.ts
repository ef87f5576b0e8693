import { describe, expect, test } from "vitest";
import { domainToASCII } from "node:url";
import { isOneOff, knownDomains, likenessOf, orgOf, shownDomain, skeleton } from ".";

/** Names that look like others. */

const known = knownDomains(
  ["larchhuts.example", "valleybank.example", "tarn.example", "dearhut.co.uk", "müller.example"],
  ["larchhuts.example"],
);
const like = (domain: string) => likenessOf(domain, known);

describe("a domain's registered part", () => {
  test.each([
    ["larch.example", "larch.example"],
    ["mail.larch.example", "larch.example"],
    ["a.b.c.larch.example", "larch.example"],
    ["larch.co.uk", "larch.co.uk"],
    ["www.larch.co.uk", "larch.co.uk"],
    ["mail.larch.ch", "larch.ch"],
    ["huts.org.ch", "huts.org.ch"],
    ["localhost", "localhost"],
    ["", ""],
  ])("of %s is %s", (domain, org) => expect(orgOf(domain)).toBe(org));
});

describe("what is shown", () => {
  test("is what stands for it on the wire, in lower case, without the dot at the end", () => {
    expect(shownDomain("XN--MLLER-KVA.Example.")).toBe("müller.example");
    expect(shownDomain("Larch.EXAMPLE")).toBe("larch.example");
    // What cannot be decoded is shown as it is.
    expect(shownDomain("xn--\u{1F600}.example")).toBe("xn--\u{1F600}.example");
  });
});

describe("letters on the wire", () => {
  const letters = [
    ..."aeg-z19äöüßçéłøабвгдежзийклмнопрстуфхцчшщыэюяαβγδεζηθλμνξοπρστυφχψωאבגדדהוזחטעלםابتجحخاليوमनहािप漢字日本語中文한국어",
  ];
  test("come back from them, of three hundred names at random", () => {
    let n = 1;
    const next = (most: number) => (n = (n * 1103515245 + 12345) % 2147483648) % most;
    let seen = 0;
    for (let i = 0; i < 300; i++) {
      const name = Array.from({ length: 1 + next(12) }, () => letters[next(letters.length)]).join("");
      const ascii = domainToASCII(`${name}.example`);
      // Some may not stand together in a name.
      if (!ascii.startsWith("xn--")) continue;
      seen++;
      expect(domainToASCII(shownDomain(ascii))).toBe(ascii);
      expect(shownDomain(ascii)).not.toContain("xn--");
    }
    expect(seen).toBeGreaterThan(100);
  });
  test.each([
    "xn--",
    "xn---",
    "xn--a",
    "xn--ö",
    "xn--!!",
    "xn--999999999",
    "xn--99999999999999999999",
    "xn--a-é",
    `xn--${"a".repeat(60)}`,
  ])("%s stands for nothing, or for little, and never fails", (part) =>
    expect(shownDomain(`${part}.example`).length).toBeLessThan(80),
  );
});

test.each(["xn--a{b.example", "xn--a_b.example", "xn--a:b.example", `xn--${"a".repeat(61)}.example`])(
  "%s is no encoded name, and shown as it is",
  (domain) => expect(shownDomain(domain)).toBe(domain),
);

describe("one letter", () => {
  // Every word one step away, made here, is one off; and nothing else of the alphabet is.
  const letters = "abc";
  const near = (word: string): Set<string> => {
    const out = new Set<string>();
    for (let i = 0; i <= word.length; i++) {
      for (const letter of letters) {
        out.add(word.slice(0, i) + letter + word.slice(i));
        if (i < word.length) out.add(word.slice(0, i) + letter + word.slice(i + 1));
      }
      if (i < word.length) out.add(word.slice(0, i) + word.slice(i + 1));
      if (i + 1 < word.length) out.add(word.slice(0, i) + word[i + 1]! + word[i]! + word.slice(i + 2));
    }
    out.delete(word);
    return out;
  };
  const words: string[] = [""];
  for (let length = 1; length <= 4; length++)
    for (const word of words.filter((one) => one.length === length - 1))
      for (const letter of letters) words.push(word + letter);
  test("is what one change makes, of all words of three letters up to four long", () => {
    for (const a of words) {
      const around = near(a);
      for (const b of words) expect(`${a} ${b} ${isOneOff(a, b)}`).toBe(`${a} ${b} ${around.has(b)}`);
    }
  });
});

describe("a name is made to look like one that is known", () => {
  test.each([
    ["lаrchhuts.example", "larchhuts.example", "reads the same"],
    ["xn--lrchhuts-16g.example", "larchhuts.example", "reads the same"],
    ["1archhuts.example", "larchhuts.example", "reads the same"],
    ["larchhutѕ.example", "larchhuts.example", "reads the same"],
    ["ｌarchhuts.example", "larchhuts.example", "reads the same"],
    ["valIeybank.example", "valleybank.example", "one letter"],
    ["tam.example", "tarn.example", "reads the same"],
    ["muller.example", "müller.example", "reads the same"],
    ["larchhut.example", "larchhuts.example", "one letter"],
    ["larchhutss.example", "larchhuts.example", "one letter"],
    ["larchuhts.example", "larchhuts.example", "one letter"],
    ["mail.valleybenk.example", "valleybank.example", "one letter"],
    ["deerhut.co.uk", "dearhut.co.uk", "one letter"],
    ["larchhuts.example.pay.test", "larchhuts.example", "in front"],
    ["www.valleybank.example.pay.test", "valleybank.example", "in front"],
    ["larchhuts-refunds.test", "larchhuts.example", "in its name"],
    ["my-larchhuts.test", "larchhuts.example", "in its name"],
    ["larchhuts.test", "larchhuts.example", "in its name"],
  ] as const)("%s: %s, %s", (domain, one, how) => expect(like(domain)).toEqual({ known: one, how }));

  test.each([
    "larchhuts.example",
    "mail.larchhuts.example",
    "dearhut.co.uk",
    "xn--mller-kva.example",
    // One letter from a name of four is many a name.
    "torn.example",
    "barn.example",
    // Another kind of place is somebody else, unless it is the person's own name.
    "valleybank.test",
    "valleybank-news.test",
    "valleyband.test",
    "nothing.example",
    "example",
    "",
  ])("%s: like none", (domain) => expect(like(domain)).toBeNull());

  test("what looks alike has one skeleton, whatever script it is written in", () => {
    expect(skeleton("соре")).toBe("cope");
    expect(skeleton("Éclair")).toBe("edair");
    expect(skeleton("modern")).toBe("modem");
  });
});

/** By how a name was made from one that is known; what is honest is made without looking at any of them. */
describe("of names made to deceive, and of honest ones", () => {
  const first = "tarn corrie ridge valley summit glacier beacon harbour lantern timber copper willow".split(" ");
  const second = "huts bank travel supply rescue printing laundry freight weather insurance".split(" ");
  const names = first.flatMap((a) => second.map((b) => `${a}${b}`));
  // A third of them is known; all the others are people one has never met.
  const met = names.filter((_, i) => i % 3 === 0);
  const book = knownDomains(
    met.map((name) => `${name}.example`),
    ["larchhuts.example"],
  );
  const at = (text: string, i: number) => (i * 7 + 1) % text.length;
  const made = met.flatMap((name, i) => {
    const k = at(name, i);
    const swapped =
      name[k] !== name[k + 1] && k + 1 < name.length
        ? [name.slice(0, k) + name[k + 1]! + name[k]! + name.slice(k + 2)]
        : [];
    const looks = name.replace("a", "а").replace("e", "е");
    return [
      ...swapped,
      `${name.slice(0, k)}${name.slice(k + 1)}`,
      `${name.slice(0, k)}z${name.slice(k + 1)}`,
      `${name.slice(0, k)}q${name.slice(k)}`,
      ...(looks === name ? [] : [looks]),
      ...(name.includes("o") ? [name.replace("o", "0")] : []),
      ...(name.includes("m") ? [name.replace("m", "rn")] : []),
    ]
      .map((other) => `${other}.example`)
      .concat(`${name}.example.login.test`, `${name}.test`);
  });
  const honest = [
    ...names
      .filter((_, i) => i % 3 !== 0)
      .flatMap((name) => [`${name}.example`, `${name}.test`, `mail.${name}.example`]),
    // Neighbours in the language: one letter apart and both in good faith.
    ...met.map((name) => `${name.replace("ridge", "bridge").replace("tarn", "barn").replace("bank", "band")}.example`),
  ].filter((one) => !book.all.has(one));
  test("precision is above 0.96, recall above 0.86", () => {
    const caught = made.filter((domain) => likenessOf(domain, book) !== null).length;
    const wrong = honest.filter((domain) => likenessOf(domain, book) !== null).length;
    expect(made.length).toBeGreaterThan(250);
    expect(honest.length).toBeGreaterThan(240);
    // What is missed is the same name under another end: as a rule it is the same firm, in another country.
    const otherEnd = made.filter((domain) => domain.endsWith(".test") && !domain.includes(".login.")).length;
    expect(made.length - caught).toBe(otherEnd);
    expect(caught / made.length).toBeGreaterThan(0.86);
    expect(caught / (caught + wrong)).toBeGreaterThan(0.96);
  });
});
