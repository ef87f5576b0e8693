import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { folderId, labelId, markerId } from "../id";
import type { Directory } from "../place";
import { fold, nearest, parse, readNarrow, textOfIssue, writeEquals } from ".";

const directory: Directory = {
  folders: [
    { id: folderId(1), path: "Inbox", role: "inbox" },
    { id: folderId(2), path: "Lost property", role: null },
  ],
  labels: [{ id: labelId(1), name: "Winter season", colour: "slate" }],
  markers: [{ id: markerId(1), letter: "R", colour: "amber", meaning: "reply", used: true }],
};
const context = { directory, now: new Date("2026-11-24T12:00:00Z"), zone: "Europe/Zurich" };
const read = (source: string) => readNarrow(source, context);
const test_ = (source: string) => {
  const checked = read(source);
  if (!checked.ok) throw new Error(checked.issues.map(textOfIssue).join());
  return checked.test;
};
const issues = (source: string) => {
  const checked = read(source);
  return checked.ok
    ? []
    : checked.issues.map((i) => ({ text: textOfIssue(i), at: source.slice(i.span.from, i.span.to) }));
};

describe("reading", () => {
  test("a space and & are and, | binds less tightly, ! most", () => {
    const tree = (source: string) => {
      const parsed = parse(source);
      return parsed.ok ? parsed.tree.kind : "bad";
    };
    expect(tree("")).toBe("all");
    expect(tree("a b")).toBe("and");
    expect(tree("a & b | c")).toBe("or");
    expect(tree("!a b")).toBe("and");
    expect(tree("!(a | b)")).toBe("not");
    expect(tree("((a))")).toBe("word");
  });
  test("names may hold spaces in quotes, in any case", () => {
    expect(test_('folder="lost PROPERTY"')).toEqual({ kind: "folder", ids: [2] });
    expect(test_("label~winter")).toEqual({ kind: "label", ids: [1] });
    expect(test_("marker=r")).toEqual({ kind: "marker", ids: [1] });
  });
  test("any name can be written as a condition, quotes, signs and all, with more after it", () => {
    expect(writeEquals("folder", "Bookings/Groups")).toBe("folder=Bookings/Groups");
    expect(writeEquals("folder", 'The "big" one')).toBe('folder="The ""big"" one"');
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.string({ unit: fc.constantFrom('"', "a", ".", "|", " ", "!") })), (name) => {
        fc.pre(name !== "");
        const parsed = parse(`${writeEquals("folder", name)} & unread`);
        expect(parsed).toMatchObject({
          ok: true,
          tree: { kind: "and", parts: [{ value: name }, { state: "unread" }] },
        });
      }),
    );
  });
  test("days begin at midnight where the person is", () => {
    expect(test_("date=today")).toEqual({
      kind: "range",
      field: "date",
      from: Date.parse("2026-11-23T23:00:00Z"),
      to: Date.parse("2026-11-24T23:00:00Z"),
    });
    expect(test_("date=2026-10-01..2026-10-31")).toMatchObject({
      from: Date.parse("2026-09-30T22:00:00Z"),
      to: Date.parse("2026-10-31T23:00:00Z"),
    });
    expect(test_("date>2026-10")).toMatchObject({ from: Date.parse("2026-10-31T23:00:00Z"), to: null });
  });
  test("older is earlier", () => {
    expect(test_("age>7d")).toEqual({
      kind: "range",
      field: "date",
      from: null,
      to: Date.parse("2026-11-17T12:00:00Z"),
    });
    expect(test_("size=1k..2k")).toMatchObject({ from: 1024, to: 2049 });
  });
});

test("a label stands for those nested in it, whether or not there is one of its own name", () => {
  const labels = ["Clients", "Clients/Alps", "Clients/Alps/South", "Clientship", "Old/Alps"].map((name, i) => ({
    id: labelId(i + 1),
    name,
    colour: "slate" as const,
  }));
  const ids = (source: string) => {
    const checked = readNarrow(source, { ...context, directory: { ...directory, labels } });
    return checked.ok && checked.test.kind === "label" ? checked.test.ids : checked.ok;
  };
  expect(ids("label=clients")).toEqual([1, 2, 3]);
  expect(ids("label=Clients/Alps")).toEqual([2, 3]);
  expect(ids("label=Old")).toEqual([5]);
  expect(ids("label=Alps")).toBe(false);
});

describe("what is wrong is said where it is, with what to do", () => {
  test.each([
    ["form=x", "form", /no field "form": did you mean "from"/],
    ["folder=Inbix", "Inbix", /no folder "Inbix": did you mean "Inbox"/],
    ["label=Spring", "Spring", /no label "Spring"/],
    ["subject>5", ">", /"subject" does not go with ">": use = or ~/],
    ["age~7d", "~", /use =, <, >/],
    ["age>soon", "soon", /write it like age>7d/],
    ["from=", "from=", /what "from" should be/],
    ["(a | b", "(", /never closed/],
    ["a)", ")", /not expected/],
    ['"open', '"open', /quote is never closed/],
    ["a | ", "|", /not expected/],
    ["()", ")", /not expected/],
    ["!", "!", /not expected/],
    ["& a", "&", /not expected/],
    ["unread &", "&", /not expected/],
    ["a & & b", "&", /not expected/],
    ["a & | b", "&", /not expected/],
    ["(a &) b", "&", /not expected/],
    ["from:warden", ":", /Write from~ for what/],
    ["unread from: warden", ":", /Write from~/],
    ["folder:Inbox", ":", /Write folder=/],
    ["Subject:beds", ":", /Write subject~/],
    ["from~...", "...", /no letters or digits/],
    ["date=2026-13", "2026-13", /write it like date=/],
  ])("%s", (source, at, text) => {
    const found = issues(source);
    expect(found.length).toBeGreaterThan(0);
    expect(found[0]!.at).toBe(at);
    expect(found[0]!.text).toMatch(text);
  });
  test("a colon means nothing else: in words that are no field's, and in quotes, it is text", () => {
    for (const source of ["re:beds", '"from:warden"', 'subject~"re: beds"', "12:30", "hut:from"])
      expect(issues(source).map((issue) => issue.at)).not.toContain(":");
  });
  test("too long, and nested too deep", () => {
    expect(issues("a".repeat(3000))[0]!.text).toMatch(/under 2000/);
    expect(issues("(".repeat(500)).length).toBeGreaterThan(0);
    expect(issues("!".repeat(900)).length).toBeGreaterThan(0);
  });
  test("whatever is typed, it answers and never throws", () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string({ maxLength: 60 }),
          fc
            .array(fc.constantFrom("from", "=", "~", "(", ")", "|", "&", "!", '"', " ", "x", "age", ">7d", ".."), {
              maxLength: 20,
            })
            .map((a) => a.join("")),
        ),
        (source) => {
          const checked = read(source);
          if (!checked.ok) {
            expect(checked.issues.length).toBeGreaterThan(0);
            for (const { span } of checked.issues)
              expect(0 <= span.from && span.from <= span.to && span.to <= source.length).toBe(true);
          }
        },
      ),
      { numRuns: 3000 },
    );
  });
});

describe("folding", () => {
  test("case, accents and punctuation do not count", () => {
    expect(fold("Åsa  O'Neill, <Åsa@Post.example>")).toBe(" asa o neill asa post example ");
    expect(fold("…")).toBe(" ");
  });
  test("folding twice is folding once", () => {
    fc.assert(fc.property(fc.string({ unit: "grapheme", maxLength: 40 }), (text) => fold(fold(text)) === fold(text)));
  });
});

describe("slips of the finger", () => {
  test("are told from other words", () => {
    expect(nearest("form", ["from", "to"])).toBe("from");
    expect(nearest("subjekt", ["subject", "size"])).toBe("subject");
    expect(nearest("banana", ["from", "to"])).toBeNull();
  });
});

test("what is wrong at a place is said once", () => {
  const issuesOf = (source: string) => {
    const parsed = parse(source);
    return parsed.ok ? [] : parsed.issues.map((issue) => [issue.code, issue.span.from]);
  };
  expect(issuesOf("unread (")).toEqual([["unclosed-paren", 7]]);
  expect(issuesOf(") unread")).toEqual([["stray", 0]]);
  expect(issuesOf("unread )")).toEqual([["stray", 7]]);
  expect(issuesOf("unread |")).toEqual([["stray", 7]]);
  expect(issuesOf("() | nowhere=x")).toEqual([
    ["stray", 1],
    ["unknown-field", 5],
  ]);
});

test("ages and sizes are ranges with the end left out, to the millisecond and the byte", () => {
  const now = new Date("2026-11-24T12:00:00Z");
  const rangeOf = (source: string) => {
    const checked = readNarrow(source, { directory: { folders: [], labels: [], markers: [] }, now, zone: "UTC" });
    return checked.ok && checked.test.kind === "range" && [checked.test.from, checked.test.to];
  };
  const ago = (days: number) => now.getTime() - days * 86_400_000;
  expect(rangeOf("age>7d")).toEqual([null, ago(7)]);
  expect(rangeOf("age>=7d")).toEqual([null, ago(7) + 1]);
  expect(rangeOf("age<7d")).toEqual([ago(7) + 1, null]);
  expect(rangeOf("age<=7d")).toEqual([ago(7), null]);
  // A day that began seven days ago.
  expect(rangeOf("age=7d")).toEqual([ago(8) + 1, ago(7) + 1]);
  expect(rangeOf("age=3d..9d")).toEqual([ago(9), ago(3) + 1]);
  expect(rangeOf("size=1..2k")).toEqual([1, 2049]);
  expect(rangeOf("size>1.5k")).toEqual([1537, null]);
  expect(rangeOf("size<=1.5k")).toEqual([null, 1537]);
});
