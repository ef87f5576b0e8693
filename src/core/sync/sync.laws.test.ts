import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { folderId, labelId, markerId, type FolderId } from "../id";
import type { MessageState } from "../change";
import { applyEdits } from "../change";
import {
  editsTo,
  flagsSeen,
  inbound,
  isMarkerKeyword,
  keywordOf,
  LONGEST_KEYWORD,
  markerKeyword,
  nameOfKeyword,
  NO_WORDS,
  sharedOf,
  wishKey,
  wishOf,
  wordsOf,
  type Shared,
} from ".";

const state: MessageState = {
  folder: folderId(1),
  read: false,
  flag: null,
  pin: true,
  marker: null,
  labels: [],
  note: "kept",
  defer: null,
  back: null,
  await: null,
  hand: null,
  owed: false,
};
const directory = {
  folders: [],
  labels: [
    { id: labelId(1), name: "Invoice", colour: "amber" as const },
    { id: labelId(2), name: "Winter season", colour: "slate" as const },
    { id: labelId(3), name: "invoice", colour: "slate" as const },
  ],
  markers: [
    { id: markerId(1), letter: "A", colour: "amber" as const, meaning: "", used: true },
    { id: markerId(2), letter: "B", colour: "slate" as const, meaning: "", used: true },
  ],
};
const WORDS = wordsOf(directory);

describe("keywords", () => {
  test("a name is one atom, and no two names are the same one", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme", minLength: 1 }), fc.string({ minLength: 1 }), (a, b) => {
        const word = keywordOf(a);
        if (word !== null) {
          expect(word).toMatch(/^[A-Za-z0-9._=-]+$/);
          expect(decodeURIComponent(word.replaceAll("=", "%"))).toBe(a.toWellFormed());
          expect(nameOfKeyword(word)).toBe(a.toWellFormed());
        }
        if (a.toWellFormed() !== b.toWellFormed() && word !== null) expect(keywordOf(b)).not.toBe(word);
      }),
    );
    expect(keywordOf("Winter season")).toBe("Winter=20season");
    expect(keywordOf("a=b")).toBe("a=3Db");
    expect(keywordOf("\u0001")).toBe("=01");
    expect(keywordOf("")).toBeNull();
    // Those of other programs are names as they are.
    for (const word of ["$Forwarded", "100%", "a=b", "=FF", "=C3"]) expect(nameOfKeyword(word)).toBe(word);
    expect(keywordOf("x".repeat(LONGEST_KEYWORD))).toBe("x".repeat(100));
    expect(keywordOf("x".repeat(LONGEST_KEYWORD + 1))).toBeNull();
  });
  test("labels that a server cannot tell apart share no keyword", () => {
    expect([...WORDS.labels]).toEqual([
      [1, "Invoice"],
      [2, "Winter=20season"],
    ]);
    expect([...WORDS.markers]).toEqual([
      [1, "marker-A"],
      [2, "marker-B"],
    ]);
    expect(isMarkerKeyword(markerKeyword("b"))).toBe(true);
    expect(isMarkerKeyword("marker-AB")).toBe(false);
    expect(isMarkerKeyword("my-marker-A")).toBe(false);
  });
  test("flags are read whatever their case, and what means nothing here is left alone", () => {
    expect(flagsSeen(["\\SEEN", "\\flagged", "$junk", "invoice", "Marker-a", "\\Recent"], WORDS)).toEqual({
      read: true,
      flagged: true,
      answered: false,
      words: ["Invoice", "marker-A"],
    });
    expect(flagsSeen(["Invoice", "\\Answered"], NO_WORDS)).toEqual({
      read: false,
      flagged: false,
      answered: true,
      words: [],
    });
  });
});

/** A server, by plain sets. */
interface Remote {
  folder: FolderId;
  flags: Set<string>;
}

const shared = fc.record({
  folder: fc.constantFrom(folderId(1), folderId(2), folderId(3)),
  read: fc.boolean(),
  flagged: fc.boolean(),
  answered: fc.boolean(),
  words: fc.subarray(["Invoice", "Winter=20season", "marker-A", "marker-B"]),
});
/** What can be here: one marker at the most. */
const here = shared.map((one) => ({
  ...one,
  words: one.words.includes("marker-A") ? one.words.filter((word) => word !== "marker-B") : one.words,
}));

function push(remote: Remote, ours: Shared, base: Shared): Shared {
  const wish = wishOf(ours, base);
  if (!wish) return base;
  if (wish.folder !== null) remote.folder = wish.folder;
  for (const flag of wish.add) remote.flags.add(flag);
  for (const flag of wish.remove) remote.flags.delete(flag);
  return ours;
}
const seen = (remote: Remote): Shared => ({ folder: remote.folder, ...flagsSeen(remote.flags, WORDS) });
const remoteOf = ({ folder, read, flagged, answered, words }: Shared): Remote => ({
  folder,
  flags: new Set([
    ...words,
    ...(read ? ["\\Seen"] : []),
    ...(flagged ? ["\\Flagged"] : []),
    ...(answered ? ["\\Answered"] : []),
  ]),
});

describe("two sides", () => {
  test("whatever happens on either side, in either order, both end equal and stay so", () => {
    const act = fc.oneof(
      fc.record({ do: fc.constant("here" as const), what: here }),
      fc.record({ do: fc.constant("there" as const), what: shared }),
      fc.constant({ do: "push" as const }),
      fc.constant({ do: "pull" as const }),
    );
    fc.assert(
      fc.property(here, fc.array(act, { maxLength: 14 }), (first, acts) => {
        let [ours, base]: Shared[] = [first, first];
        const remote = remoteOf(first);
        const pull = () => ({ ours, base } = inbound(base!, seen(remote), ours!));
        for (const one of acts) {
          if (one.do === "here") ours = { ...one.what, answered: one.what.answered || ours!.answered };
          else if (one.do === "there") Object.assign(remote, remoteOf(one.what));
          else if (one.do === "push") base = push(remote, ours!, base!);
          else pull();
        }
        pull();
        base = push(remote, ours!, base!);
        expect(seen(remote)).toEqual(ours);
        // Nothing echoes: another round changes nothing on either side.
        const settled = ours;
        expect(inbound(base, seen(remote), ours!)).toEqual({ ours: settled, base: settled, won: false });
        expect(wishOf(ours!, base)).toBeNull();
      }),
    );
  });
  test("what only one side changed is what both have; what was decided here stands against the server", () => {
    fc.assert(
      fc.property(here, shared, here, (base, theirs, ours) => {
        const met = inbound(base, theirs, ours);
        expect(met.base).toBe(theirs);
        if (theirs.folder === base.folder) expect(met.ours.folder).toBe(ours.folder);
        else if (ours.folder === base.folder) expect(met.ours.folder).toBe(theirs.folder);
        else expect(met.ours.folder).toBe(ours.folder);
        expect(met.won).toBe(new Set([base.folder, theirs.folder, ours.folder]).size === 3);
        // Of two bits that both moved, both moved the same way.
        expect(met.ours.read).toBe(base.read ? theirs.read && ours.read : theirs.read || ours.read);
        expect(met.ours.flagged).toBe(base.flagged ? theirs.flagged && ours.flagged : theirs.flagged || ours.flagged);
        expect(met.ours.answered).toBe(theirs.answered || ours.answered);
        for (const word of ["Invoice", "Winter=20season"]) {
          const [was, there, here] = [base, theirs, ours].map(({ words }) => words.includes(word));
          expect(met.ours.words.includes(word)).toBe(was ? there && here : there || here);
        }
        expect(met.ours.words.filter(isMarkerKeyword).length).toBeLessThanOrEqual(1);
      }),
    );
  });
  test("a marker set elsewhere takes the place of the one there was; one set here stands", () => {
    const base = { ...sharedOf(state, false, WORDS), words: ["marker-A"] };
    const both = { ...base, words: ["marker-A", "marker-B"] };
    expect(inbound(base, both, base).ours.words).toEqual(["marker-B"]);
    const none = { ...base, words: [] };
    const met = inbound(none, { ...base, words: ["marker-A"] }, { ...base, words: ["marker-B"] });
    expect(met.ours.words).toEqual(["marker-B"]);
    expect(wishOf(met.ours, met.base)).toEqual({ gone: false, folder: null, add: ["marker-B"], remove: ["marker-A"] });
  });
  test("equal wishes are one command, others are not", () => {
    const base = sharedOf(state, false, WORDS);
    const wish = (ours: Shared | null) => wishKey(wishOf(ours, base)!);
    expect(wish({ ...base, read: true })).toBe(wish({ ...base, read: true }));
    const keys = [
      wish(null),
      wish({ ...base, read: true }),
      wish({ ...base, folder: folderId(2) }),
      wish({ ...base, flagged: true }),
      wish({ ...base, answered: true }),
      wishKey(wishOf(base, { ...base, read: true })!),
    ];
    expect(new Set(keys).size).toBe(keys.length);
    expect(wishOf(base, { ...base, answered: true })).toBeNull();
  });
  test("a state is brought to what is to be so, and what no server keeps stays", () => {
    const full: MessageState = { ...state, labels: [labelId(1), labelId(3)], marker: markerId(1), read: true };
    fc.assert(
      fc.property(fc.constantFrom(state, full), here, (from, next) => {
        const after = applyEdits(from, editsTo(from, next, WORDS));
        expect(sharedOf(after, next.answered, WORDS)).toEqual({ ...next, words: [...next.words].sort() });
        expect(after.labels.includes(labelId(3))).toBe(from.labels.includes(labelId(3)));
        expect([after.pin, after.note]).toEqual([true, "kept"]);
      }),
    );
    const flagged: MessageState = { ...state, flag: { start: null, due: "2026-12-01T09:00:00.000Z", note: "ring" } };
    expect(editsTo(flagged, sharedOf(flagged, false, WORDS), WORDS)).toEqual([]);
    // Where the server keeps no keywords, it takes none off.
    expect(editsTo(full, sharedOf(full, false, NO_WORDS), NO_WORDS)).toEqual([]);
  });
});
