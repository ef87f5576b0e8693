import { decodePunycode } from "./punycode";

/** Names of domains that look like others: what a person reads, and what is meant. */

/**
 * Letters that look like Latin ones, as text is printed: from the confusables of Unicode (UTS #39), those that a
 * domain name may hold (IDNA) and that a reader takes for a letter of English. What NFKD takes apart is not here.
 */
const LOOKS: Readonly<Record<string, string>> = Object.fromEntries(
  (
    [
      ["a", "аɑα"],
      ["b", "ЬƄ"],
      ["c", "сϲᴄ"],
      ["d", "ԁɗ"],
      ["e", "еҽє"],
      ["f", "ƒ"],
      ["g", "ɡց"],
      ["h", "һհ"],
      ["i", "іıɩι"],
      ["j", "јϳ"],
      ["k", "кκ"],
      ["l", "1ӏǀł"],
      ["m", "м"],
      ["n", "ոпη"],
      ["o", "0оοσօø"],
      ["p", "рρ"],
      ["q", "ԛգ"],
      ["r", "гᴦ"],
      ["s", "ѕꜱ"],
      ["t", "тτ"],
      ["u", "υսᴜ"],
      ["v", "νѵᴠ"],
      ["w", "ѡԝωᴡ"],
      ["x", "хχ"],
      ["y", "уүγ"],
      ["z", "ᴢ"],
    ] as const
  ).flatMap(([latin, others]) => [...others].map((other) => [other, latin] as const)),
);

/** Pairs that are read as one letter. */
const PAIRS: readonly (readonly [pair: string, one: string])[] = [
  ["rn", "m"],
  ["vv", "w"],
  ["cl", "d"],
];

const ENCODED = "xn--";
/** Most names are of these letters alone, and are what they look like. */
const PLAIN = /^[\x20-\x7e]*$/;
const LONGEST_PART = 63;

/** A domain as it is shown: in lower case, its letters instead of what stands for them on the wire. */
export function shownDomain(domain: string): string {
  const lower = domain.toLowerCase().replace(/\.$/, "");
  if (PLAIN.test(lower) && !lower.includes(ENCODED)) return lower;
  const parts = lower.split(".");
  return parts
    .map((part) => {
      if (!part.startsWith(ENCODED) || part.length > LONGEST_PART) return part;
      return decodePunycode(part.slice(ENCODED.length)) ?? part;
    })
    .join(".")
    .normalize("NFC");
}

/** What a reader takes a name for: two names with one of these look alike. */
export function skeleton(name: string): string {
  const plain = name
    .normalize("NFKD")
    .replace(/\p{M}+/gu, "")
    .toLowerCase();
  const latin = [...plain].map((letter) => LOOKS[letter] ?? letter).join("");
  return PAIRS.reduce((text, [pair, one]) => text.replaceAll(pair, one), latin);
}

/** A last part of two letters, behind one that says what kind of place it is: ".co.uk". */
const LONGEST_KIND = 3;

/** The part of a domain that somebody registers, as far as its form tells: "larch.example" of "mail.larch.example". */
export function orgOf(domain: string): string {
  const parts = domain.split(".");
  const [kind = "", last = ""] = parts.slice(-2);
  return parts.slice(last.length === 2 && kind.length <= LONGEST_KIND ? -3 : -2).join(".");
}

/** Whether one letter put in, left out, changed, or swapped with its neighbour makes one of the other. */
export function isOneOff(a: string, b: string): boolean {
  const [short, long] = a.length <= b.length ? [a, b] : [b, a];
  if (long.length - short.length > 1 || short === long) return false;
  let at = 0;
  while (at < short.length && short[at] === long[at]) at++;
  if (short.length < long.length) return short.slice(at) === long.slice(at + 1);
  if (short.slice(at + 1) === long.slice(at + 1)) return true;
  return short[at] === long[at + 1] && short[at + 1] === long[at] && short.slice(at + 2) === long.slice(at + 2);
}

/** Names shorter than this are one letter from too many others. */
const SHORTEST = 5;

/** How a domain looks like one that is known. */
export interface Likeness {
  readonly known: string;
  readonly how: "reads the same" | "one letter" | "in front" | "in its name";
}

/** Domains a person knows, as they are shown and as somebody registered them. */
export interface KnownDomains {
  readonly all: ReadonlySet<string>;
  /** Those of the person and of contacts among them by their names, which are imitated in more ways. */
  readonly near: ReadonlyMap<string, string>;
  /** All of them by what they look like. */
  readonly looks: ReadonlyMap<string, string>;
  /** Names of all of them by how long they are and what comes behind, for those that are one letter from another. */
  readonly names: ReadonlyMap<string, readonly string[]>;
}

/** "larch", ".example" */
function partsOf(org: string): readonly [name: string, end: string] {
  const at = org.indexOf(".");
  return at < 0 ? [org, ""] : [org.slice(0, at), org.slice(at)];
}

export function knownDomains(all: Iterable<string>, near: Iterable<string>): KnownDomains {
  const known = new Set(all);
  const names = new Map<string, string[]>();
  for (const one of known) {
    const [name, end] = partsOf(one);
    const key = `${name.length}${end}`;
    const same = names.get(key);
    if (same) same.push(name);
    else names.set(key, [name]);
  }
  return {
    all: known,
    near: new Map([...near].map((one) => [partsOf(one)[0], one])),
    looks: new Map([...known].map((one) => [skeleton(one), one])),
    names,
  };
}

/** A known domain that stands in the middle of another, as a part in front: "larch.example" in "larch.example.pay.test". */
function inFront(shown: string, { all }: KnownDomains): string | null {
  const parts = shown.split(".");
  for (let from = 0; from < parts.length; from++)
    for (let to = from + 2; to < parts.length; to++) {
      const part = parts.slice(from, to).join(".");
      if (all.has(part)) return part;
    }
  return null;
}

/** The known domain that one is made to look like; null where it is known itself, or like none. */
export function likenessOf(domain: string, known: KnownDomains): Likeness | null {
  const shown = shownDomain(domain);
  const org = orgOf(shown);
  if (known.all.has(org)) return null;
  const same = known.looks.get(skeleton(org));
  if (same !== undefined) return { known: same, how: "reads the same" };
  const front = inFront(shown, known);
  if (front !== null) return { known: front, how: "in front" };
  const [name, end] = partsOf(org);
  for (const length of [name.length - 1, name.length, name.length + 1])
    if (Math.min(length, name.length) >= SHORTEST)
      for (const other of known.names.get(`${length}${end}`) ?? [])
        if (isOneOff(name, other)) return { known: other + end, how: "one letter" };
  for (const part of [name, ...name.split("-")]) {
    const one = part.length < SHORTEST ? undefined : known.near.get(part);
    if (one !== undefined) return { known: one, how: "in its name" };
  }
  return null;
}
