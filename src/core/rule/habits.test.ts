import { describe, expect, test } from "vitest";
import { folderId, messageId } from "../id";
import { foundMacros, foundRules, patternsOf, sequenceKey, sequencesEnding, type Habit, type Handled } from ".";

const habit = (narrow: string, folder: number, messages: number, more: Partial<Habit> = {}): Habit => ({
  narrow,
  folder: folderId(folder),
  macro: 1,
  messages,
  last: messageId(1),
  ...more,
});
const narrows = (habits: Habit[], known: string[] = []) =>
  foundRules(habits, new Set(known)).map(({ narrow }) => narrow);

describe("rules that might be", () => {
  test.each<[string, Habit[], boolean]>([
    ["six times the same", [habit("from=a@x.example", 1, 6)], true],
    ["five times", [habit("from=a@x.example", 1, 5)], false],
    ["nineteen of twenty", [habit("from=a@x.example", 1, 19), habit("from=a@x.example", 2, 1)], true],
    ["eighteen of nineteen", [habit("from=a@x.example", 1, 18), habit("from=a@x.example", 2, 1)], false],
    [
      "by two macros to one folder",
      [habit("from=a@x.example", 1, 3), habit("from=a@x.example", 1, 3, { macro: 2 })],
      true,
    ],
    ["by halves to two folders", [habit("from=a@x.example", 1, 9), habit("from=a@x.example", 2, 9)], false],
  ])("%s", (_, habits, is) => expect(narrows(habits)).toEqual(is ? ["from=a@x.example"] : []));

  test("name the macro that did it most, and what speaks for them", () => {
    const habits = [
      habit("from=a@x.example", 1, 7, { macro: 4 }),
      habit("from=a@x.example", 1, 15, { macro: null }),
      habit("from=a@x.example", 2, 1),
    ];
    expect(foundRules(habits, new Set())).toEqual([
      { narrow: "from=a@x.example", folder: 1, macro: null, messages: 22, decided: 23 },
    ]);
  });

  test("are offered once for the same mail: the one that means most of it, and of two the plainer", () => {
    const same = { last: messageId(9) };
    expect(
      narrows([habit("subject~week", 1, 8, same), habit("from=a@x.example", 1, 8, same), habit("list=l", 1, 8, same)]),
    ).toEqual(["list=l"]);
    expect(narrows([habit("from=a@x.example", 1, 8, same), habit("from~@x.example", 1, 20, same)])).toEqual([
      "from~@x.example",
    ]);
    // Other mail, or another folder, is something else.
    expect(narrows([habit("list=l", 1, 8), habit("from=a@x.example", 1, 9, same)])).toEqual([
      "from=a@x.example",
      "list=l",
    ]);
    expect(narrows([habit("list=l", 1, 8, same), habit("from=a@x.example", 2, 9, same)])).toHaveLength(2);
  });

  test("that there are, or that were declined, are not offered: nor what means the same mail less plainly", () => {
    const same = { last: messageId(9) };
    expect(narrows([habit("list=l", 1, 8, same), habit("from=a@x.example", 1, 8, same)], ["list=l"])).toEqual([]);
    expect(narrows([habit("list=l", 1, 8)], ["list=m"])).toEqual(["list=l"]);
  });

  test("come from what a message suggests", () => {
    expect(patternsOf({ from: "a@x.example", list: "l", via: ["me@h.example"], subject: "Re: Week 12" })).toEqual([
      "list=l",
      "from=a@x.example",
      "from~@x.example",
      "via=me@h.example",
      "subject~Week",
    ]);
  });
});

describe("macros that might be", () => {
  const macros = [1, 2, 3].map((id) => ({ id, steps: [{ do: "note", text: String(id) } as const] }));
  const of = (...some: [string, number][]) =>
    some.map(([text, times]) => ({ macros: text.split(" ").map(Number), times }));
  const found = (sequences: [string, number][], known: string[] = [], more: typeof macros = []) =>
    foundMacros(of(...sequences), [...macros, ...more], new Set(known)).map(
      (one) => `${one.macros.join(" ")}: ${one.keys}`,
    );

  test("are two or more that follow one another five times; keys are those that one would have saved", () => {
    expect(found([["1 2", 5]])).toEqual(["1 2: 5"]);
    expect(found([["1 2", 4]])).toEqual([]);
    expect(found([["1 2 3", 6]])).toEqual(["1 2 3: 12"]);
    // Those that save most come first.
    expect(
      found([
        ["1 2", 5],
        ["2 3", 9],
        ["3 1", 7],
      ]),
    ).toEqual(["2 3: 9", "3 1: 7", "1 2: 5"]);
    expect(foundMacros(of(["2 1", 5]), macros, new Set())[0]!.steps).toEqual([
      { do: "note", text: "2" },
      { do: "note", text: "1" },
    ]);
  });

  test("leave out parts of a longer one that are hardly ever done alone, and macros that are gone", () => {
    expect(
      found([
        ["1 2", 8],
        ["2 3", 8],
        ["1 2 3", 8],
      ]),
    ).toEqual(["1 2 3: 16"]);
    expect(
      found([
        ["1 2", 40],
        ["1 2 3", 8],
      ]),
    ).toEqual(["1 2: 40", "1 2 3: 16"]);
    // Not a part of it, but for its digits.
    expect(
      found([
        ["1 2", 5],
        ["1 3", 5],
      ]),
    ).toHaveLength(2);
    expect(found([["1 9", 50]])).toEqual([]);
  });

  test("that were declined, or that there are already, are not offered", () => {
    expect(found([["1 2", 5]], [sequenceKey([1, 2])])).toEqual([]);
    const both = { id: 7, steps: [...macros[0]!.steps, ...macros[1]!.steps] };
    expect(found([["1 2", 5]], [], [both as never])).toEqual([]);
  });

  test("end with a run on the same mail within a minute of the one before it", () => {
    const run = (macro: number, second: number, on = "7"): Handled => ({ macro, atMs: second * 1000, on });
    expect(sequencesEnding([run(1, 0)], run(2, 60))).toEqual([[1, 2]]);
    expect(sequencesEnding([run(1, 0)], run(2, 61))).toEqual([]);
    expect(sequencesEnding([run(1, 0, "8")], run(2, 1))).toEqual([]);
    expect(sequencesEnding([], run(2, 1))).toEqual([]);
    // Each within a minute of the next; four are the longest.
    const before = [run(1, 0), run(2, 50), run(3, 100), run(4, 150)];
    expect(sequencesEnding(before, run(5, 200))).toEqual([
      [4, 5],
      [3, 4, 5],
      [2, 3, 4, 5],
    ]);
    expect(sequencesEnding([run(1, 0), run(9, 1, "8"), run(2, 2)], run(3, 3))).toEqual([[2, 3]]);
  });
});
