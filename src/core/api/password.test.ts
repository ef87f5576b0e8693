import { describe, expect, test } from "vitest";
import { passwordProblem } from "./password";

describe("a new password", () => {
  test.each([
    "seven larches by the lake",
    "the bridge is out again",
    "hüttenwart am see",
    "correct-horse-42-lake",
    "Xk2#vP9qLm4z",
    "трое в лодке не считая",
    "山の上の小屋は雪の中にあります",
    "deafening silence",
    "hijack the fortress",
  ])("%s will do", (password) => expect(passwordProblem(password)).toBeNull());

  test.each([
    ["", "at least 12"],
    ["eleven char", "at least 12"],
    ["aaaaaaaaaaaaaaaa", "same few"],
    ["abababababab", "same few"],
    ["lodge1lodge1", "again and again is soon"],
    ["Larch!larch!", "again and again is soon"],
    ["winter26winter26win", "again and again is soon"],
    ["123456789012", "in a row"],
    ["1234567890ab", "in a row"],
    ["abcdefghijkl", "in a row"],
    ["lkjihgfedcba", "in a row"],
    ["qwertyuiop12", "in a row"],
    ["Qwertzuiop!1", "in a row"],
    ["asdfghjkl123", "in a row"],
    ["poiuytrewq99", "in a row"],
    ["abcdefg.hijklm", "in a row"],
    ["aaaabbbbccccdddd11", "in a row"],
  ])("%j will not", (password, said) => expect(passwordProblem(password)).toContain(said));

  test("is counted in characters as they are read, not as they are kept", () => {
    // Eleven of them, each of two code units; and eleven letters with their marks apart.
    expect(passwordProblem("🌲🚡🎿🛷🧣🏔🌲🚡🎿🛷🧣")).toContain("at least 12");
    expect(passwordProblem("hüttenwärt".normalize("NFD"))).toContain("at least 12");
  });

  test("of twelve is long enough, and of five different ones", () => {
    expect(passwordProblem("hut key lake")).toBeNull();
    expect(passwordProblem("hut key lak")).toContain("at least 12");
    expect(passwordProblem("lakelakalekl")).toContain("same few");
  });
});
