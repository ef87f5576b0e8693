import { describe, expect, test } from "vitest";
import { folderId } from "../id";
import { domainOf, guessFrom } from ".";

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
