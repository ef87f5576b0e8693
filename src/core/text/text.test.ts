import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { cut, isStorable, percentDecoded, storable, unstorableAt } from ".";

const odd = fc.string({ unit: fc.constantFrom("a", "\0", "\ud83d", "\ude42", "🙂", "é") });

describe("texts that are kept", () => {
  test("are mended so that they can be, and those that can be stay as they are", () => {
    fc.assert(
      fc.property(odd, (text) => {
        expect(isStorable(storable(text))).toBe(true);
        expect(storable(storable(text))).toBe(storable(text));
        expect(storable(text) === text).toBe(isStorable(text));
      }),
    );
    expect(storable("a\0b\ud83d")).toBe("a\ufffdb\ufffd");
    expect(["", "🙂", "\0", "\ud83d", "\ude42x"].map(isStorable)).toEqual([true, true, false, false, false]);
  });
  test.each([
    ["abc", 3, "abc"],
    ["abc", 2, "ab"],
    ["abc", 0, ""],
    ["a🙂b", 2, "a"],
    ["a🙂b", 3, "a🙂"],
    ["🙂", 1, ""],
    ["🙂", 2, "🙂"],
    ["ab🙂", 3, "ab"],
  ])("%j cut to %i is %j", (text, most, left) => {
    expect(cut(text, most)).toBe(left);
  });
  test("a cut never halves a character, and takes no more than it must", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme" }), fc.nat(20), (text, most) => {
        const left = cut(text, most);
        expect(text.startsWith(left)).toBe(true);
        expect(left.isWellFormed()).toBe(true);
        expect(left.length).toBeLessThanOrEqual(most);
        expect(left.length).toBeGreaterThanOrEqual(Math.min(text.length, most) - 1);
      }),
    );
  });
  test("the place in JSON that cannot be kept is named", () => {
    expect(unstorableAt({ a: ["fine", { b: "x\0" }] })).toBe("a.1.b");
    expect(unstorableAt("\ud800")).toBe("");
    expect(unstorableAt({ deep: { ["k\0"]: 1 } })).toBe("deep");
    expect(unstorableAt([[["🙂"]], null, 1, true, { a: undefined }])).toBeNull();
  });
});

test("what percent signs stand for is read; what stands for nothing stays as it is", () => {
  const cases = { "a%40b": "a@b", "%C3%A9": "é", "%ff": "%ff", "50%": "50%", "a%2": "a%2", "": "" };
  expect(Object.keys(cases).map(percentDecoded)).toEqual(Object.values(cases));
});
