import { describe, expect, test } from "vitest";
import { folderId } from "../id";
import { domainOf, guessFrom, rankFrom } from ".";

const filed = (address: string, folder: number, messages: number) => ({ address, folder: folderId(folder), messages });

describe("the folder guess", () => {
  const guess = guessFrom([
    filed("ines@larch.example", 1, 5),
    filed("ines@larch.example", 2, 1),
    filed("bo@larch.example", 2, 9),
    filed("once@tarn.example", 3, 1),
    filed("both@corrie.example", 4, 3),
    filed("both@corrie.example", 5, 3),
  ]);
  test("goes where most of the sender's mail went", () => {
    expect(guess("Ines@Larch.example")).toBe(1);
    expect(guess("bo@larch.example")).toBe(2);
  });
  test("falls back to the domain for a sender it does not know", () => {
    expect(guess("new@larch.example")).toBe(2);
  });
  test("makes no guess from one message, from a tie, or from nothing", () => {
    expect(guess("once@tarn.example")).toBeNull();
    expect(guess("both@corrie.example")).toBeNull();
    expect(guess("who@nowhere.example")).toBeNull();
    expect(guess("")).toBeNull();
  });
  test("a domain is what stands behind the last @", () => {
    expect(domainOf('"a@b"@X.example')).toBe("x.example");
  });
});

describe("folders a sender's mail may be meant for", () => {
  const rank = rankFrom([
    filed("Ines@larch.example", 1, 2),
    filed("ines@larch.example", 2, 5),
    filed("bo@larch.example", 3, 9),
    filed("far@tarn.example", 4, 50),
  ]);
  test("are those of the sender, the fullest first, then those of the domain, each once", () => {
    expect(rank("INES@larch.example")).toEqual([2, 1, 3]);
    expect(rank("new@LARCH.example")).toEqual([3, 2, 1]);
    expect(rank("who@nowhere.example")).toEqual([]);
  });
  test("a habit is two messages of which most went one way", () => {
    const guess = (...counts: number[]) =>
      guessFrom(counts.map((n, i) => filed("a@x.example", i + 1, n)))("a@x.example");
    expect(guess(1)).toBeNull();
    expect(guess(2)).toBe(1);
    // Sixty of a hundred are enough, one less is not.
    expect(guess(6, 4)).toBe(1);
    expect(guess(59, 41)).toBeNull();
    expect(guess(4, 6)).toBe(2);
    expect(guess(3, 4, 3)).toBeNull();
  });
});

test("senders of one domain count together, and one folder named twice counts twice", () => {
  const many = [
    filed("a@x.example", 1, 3),
    filed("b@x.example", 2, 2),
    filed("c@x.example", 2, 2),
    filed("d@x.example", 2, 1),
    filed("a@x.example", 1, 1),
  ];
  // Five of nine are too few for a guess; the order knows them all.
  expect(guessFrom(many)("new@x.example")).toBeNull();
  expect(rankFrom(many)("new@x.example")).toEqual([2, 1]);
  expect(guessFrom([...many, filed("e@x.example", 2, 2)])("new@x.example")).toBe(2);
  expect(guessFrom(many)("a@x.example")).toBe(1);
});
