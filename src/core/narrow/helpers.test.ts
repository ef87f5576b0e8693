import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { folderId, labelId, markerId } from "../id";
import {
  asksForWords,
  complete,
  conditionsIn,
  EMPTY_FORM,
  explain,
  formOf,
  parse,
  piecesOf,
  readNarrow,
  soughtIn,
  STATES,
  writeForm,
  type NarrowContext,
  type NarrowForm,
  type NarrowRow,
  type Vocabulary,
} from ".";

const context: NarrowContext = {
  directory: {
    folders: [{ id: folderId(1), path: "Lost property", role: null }],
    labels: [{ id: labelId(1), name: "Winter season", colour: "slate" }],
    markers: [{ id: markerId(1), letter: "R", colour: "amber", meaning: "", used: true }],
  },
  now: new Date("2026-11-24T12:00:00Z"),
  zone: "Europe/Zurich",
};
const testOf = (source: string) => {
  const checked = readNarrow(source, context);
  if (!checked.ok) throw new Error(`${source}: ${JSON.stringify(checked.issues)}`);
  return checked.test;
};

describe("conditions", () => {
  test.each([
    ["", []],
    ["unread", ["unread"]],
    ["unread age>7d & from~x", ["unread", "age>7d", "from~x"]],
    ['(a | b) "two words" !(c d)', ["(a | b)", '"two words"', "!(c d)"]],
    ["a | b", ["a | b"]],
    ["((a b))", ["a", "b"]],
  ])("%s", (source, parts) => expect(conditionsIn(source)).toEqual(parts));
  test("put together again they mean the same", () => {
    const part = fc.constantFrom("unread", "(pinned | owed)", "!read", '!("a b" | c)', "size>1M", "folder~lost");
    fc.assert(
      fc.property(fc.array(part, { minLength: 1, maxLength: 5 }), (parts) => {
        const source = parts.join(" & ");
        expect(testOf(conditionsIn(source).join(" & "))).toEqual(testOf(source));
      }),
    );
  });
});

describe("the form", () => {
  const text = fc.constantFrom("", "marsh", "hut book", 'a "b" c', "x|y", "7d");
  const arbForm: fc.Arbitrary<NarrowForm> = fc.record({
    from: text,
    to: text,
    subject: text,
    words: fc.constantFrom("", "beds", '"hut book" beds'),
    file: text,
    folder: fc.constantFrom("", "Lost property"),
    label: fc.constantFrom("", "Winter season"),
    marker: fc.constantFrom("", "R"),
    older: fc.constantFrom("", "7d"),
    newer: fc.constantFrom("", "1d"),
    larger: fc.constantFrom("", "1M"),
    since: fc.constantFrom("", "2026-11-01"),
    until: fc.constantFrom("", "today"),
    states: fc.subarray([...STATES]),
    rest: fc.constantFrom([], ["!owed"], ["(a | b)", "age>1y"]),
  });
  test("and the expression are two sides of one thing", () => {
    fc.assert(
      fc.property(arbForm, (form) => {
        const source = writeForm(form);
        const back = formOf(source);
        // Conditions may change places: the form has an order of its own.
        const sorted = (text: string) =>
          conditionsIn(text)
            .map((one) => JSON.stringify(testOf(one)))
            .sort();
        expect(sorted(writeForm(back))).toEqual(sorted(source));
        if (form.rest.length === 0) expect(back).toEqual(form);
      }),
    );
  });
  test("keeps what it has no field for", () => {
    expect(formOf("from~x from~y (a | b) !owed unread")).toEqual({
      ...EMPTY_FORM,
      from: "x",
      states: ["unread"],
      rest: ["from~y", "(a | b)", "!owed"],
    });
  });
});

describe("completion", () => {
  const vocabulary: Vocabulary = (field) =>
    field === "folder"
      ? [
          { value: "Lost property", count: 3 },
          { value: "Lists", count: 9 },
        ]
      : field === "from"
        ? [{ value: "ines@larch.example", count: 2, detail: "Ines Okafor" }]
        : [];
  const texts = (source: string, caret = source.length) => complete(source, caret, vocabulary).map((one) => one.text);
  test("offers fields and states by their beginning, and values with counts", () => {
    expect(texts("un")).toEqual(["unread"]);
    expect(texts("unread fr")).toContain("from~");
    expect(complete("folder=lo", 9, vocabulary)).toEqual([
      { text: '"Lost property"', span: { from: 7, to: 9 }, detail: "", count: 3, whole: true },
    ]);
    expect(texts("from~okaf")).toEqual(["ines@larch.example"]);
    expect(texts("size")).toContain("size>1M");
    expect(texts('"quo')).toEqual([]);
    expect(texts("")).toContain("unread");
  });
  test("looks at where the caret is, and what it offers can be read", () => {
    const source = "fr & unread";
    const [offer] = complete(source, 2, vocabulary);
    expect([offer?.text, offer?.span]).toEqual(["from~", { from: 0, to: 2 }]);
    for (const one of complete("", 0, vocabulary)) expect(parse(one.whole ? one.text : `${one.text}x`).ok).toBe(true);
  });
});

describe("words that only the server has", () => {
  test.each([
    ["unread", false],
    ["subject~beds & from~x", false],
    ["beds", true],
    ["unread & beds", true],
    ["unread | beds", true],
    ["!(unread | beds)", true],
  ])("%s asks for them: %s", (source, asks) => {
    expect(asksForWords(testOf(source))).toBe(asks);
  });
});

describe("what is sought", () => {
  test("is marked as whole words and beginnings, without regard to case and accents", () => {
    expect(soughtIn('zurich from~marsh !secret ("hut book" | size>1M) folder=x')).toEqual([
      "zurich",
      "marsh",
      "hut book",
    ]);
    const hits = (text: string, ...sought: string[]) =>
      piecesOf(text, sought).flatMap((piece) => (piece.hit ? [piece.text] : []));
    expect(hits("Zürich, ZURICHSEE and Amzurich", "zurich")).toEqual(["Zürich", "ZURICHSEE"]);
    expect(hits("The hut bookings; hut, book", "hut book")).toEqual(["hut bookings", "hut, book"]);
    expect(hits("nothing", "hut")).toEqual([]);
  });
  test("cuts a text without losing any of it", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme" }), fc.array(fc.constantFrom("a", "b c", "é")), (text, sought) => {
        expect(
          piecesOf(text, sought)
            .map((piece) => piece.text)
            .join(""),
        ).toBe(text);
      }),
    );
  });
});

test("why a message matches: condition by condition, and null where only the server knows", () => {
  const row: NarrowRow = {
    folder: 1,
    account: 0,
    read: false,
    pin: false,
    flagged: false,
    owed: false,
    awaited: false,
    deferred: false,
    returned: false,
    deferMs: NaN,
    dueMs: NaN,
    marker: 0,
    dateMs: 0,
    size: 10,
    traits: 0,
    hasLabel: () => false,
    text: (field) => (field === "subject" ? " hut beds " : " "),
    body: () => " ",
    tasks: () => [],
  };
  expect(explain('folder="Lost property" unread pinned hut deposit', row, context)).toEqual([
    { condition: 'folder="Lost property"', holds: true },
    { condition: "unread", holds: true },
    { condition: "pinned", holds: false },
    { condition: "hut", holds: true },
    { condition: "deposit", holds: null },
  ]);
  expect(explain("deposit", row, context, true)).toEqual([{ condition: "deposit", holds: false }]);
});
