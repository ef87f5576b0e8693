import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  docAbove,
  docOfText,
  docSchema,
  eachOnce,
  flowedOf,
  htmlOf,
  introOf,
  isAddress,
  isBlank,
  isRich,
  mapTexts,
  mistakesIn,
  muchLike,
  needsUtf8,
  picturesOf,
  plainOf,
  readCorrespondents,
  recipientsOf,
  subjectOf,
  textsOf,
  threadingOf,
  writeCorrespondent,
  type Block,
  type Correspondent,
  type Doc,
} from ".";

/** Reads flowing text as RFC 3676, 4.2 says, with an eye of its own: lines that end in a space go on. */
function unflowed(text: string): string {
  const out: string[] = [];
  let open: { depth: number; text: string } | null = null;
  for (const line of text.split("\n")) {
    const depth = /^>*/.exec(line)![0].length;
    const bare = line.slice(depth).replace(/^ /, "");
    const goesOn = bare.endsWith(" ") && bare !== "-- ";
    if (open && open.depth === depth) open.text += bare;
    else {
      if (open) out.push(`${">".repeat(open.depth)}${open.text}`);
      open = { depth, text: bare };
    }
    if (goesOn) continue;
    out.push(`${">".repeat(open.depth)}${open.text}`);
    open = null;
  }
  return out.join("\n");
}

const words = fc
  .array(fc.constantFrom("hut", "From", ">", "a", "überlang", "x".repeat(90), "--", "key", "日本"), { maxLength: 30 })
  .map((list) => list.join(" "));
const paragraphs = fc.array(words, { minLength: 1, maxLength: 5 });

describe("text that flows", () => {
  test("is put together again as it was written, and no line is long but for a word that is", () => {
    fc.assert(
      fc.property(paragraphs, (lines) => {
        const flowed = flowedOf(docOfText(lines.join("\n")));
        for (const line of flowed.split("\n"))
          if (line.length > 78) expect(line.trim().split(" ").length).toBeLessThan(3);
        // A line that would be taken for a quote has a space before it, so that reading it takes that off again.
        expect(unflowed(flowed)).toBe(lines.join("\n"));
      }),
      { numRuns: 500 },
    );
  });
  test("a signature's line stands alone, quotes keep their depth", () => {
    expect(flowedOf(docOfText("-- \nOffice"))).toBe("-- \nOffice");
    const quoted: Doc = {
      type: "doc",
      content: [
        { type: "quoted", attrs: { intro: "On Friday, Ines wrote:", text: "one\n> two", html: null, message: 7 } },
      ],
    };
    expect(flowedOf(quoted)).toBe("On Friday, Ines wrote:\n> one\n>> two");
    expect(plainOf(quoted)).toBe("On Friday, Ines wrote:\n> one\n>> two");
  });
});

const RICH: Doc = {
  type: "doc",
  content: [
    {
      type: "paragraph",
      content: [
        { type: "text", text: "see " },
        {
          type: "text",
          text: "the <map>",
          marks: [{ type: "link", attrs: { href: "https://huts.example/?a=1&b=2" } }],
        },
        { type: "hard_break" },
        { type: "text", text: "now", marks: [{ type: "strong" }, { type: "em" }] },
        { type: "image", attrs: { file: 3, alt: 'a "hut"' } },
      ],
    },
    {
      type: "ordered_list",
      content: [
        { type: "list_item", content: [{ type: "paragraph", content: [{ type: "text", text: "one" }] }] },
        {
          type: "list_item",
          content: [
            { type: "paragraph", content: [{ type: "text", text: "two" }] },
            {
              type: "bullet_list",
              content: [
                { type: "list_item", content: [{ type: "paragraph", content: [{ type: "text", text: "in" }] }] },
              ],
            },
          ],
        },
      ],
    },
    { type: "blockquote", content: [{ type: "paragraph", content: [{ type: "text", text: "said" }] }] },
  ],
};

describe("a document", () => {
  test("as HTML: nothing in its texts is markup, links and pictures point where they should", () => {
    const html = htmlOf(RICH, (file) => `p${file}@x`);
    expect(html).toContain('<a href="https://huts.example/?a=1&amp;b=2">the &lt;map&gt;</a>');
    expect(html).toContain("<i><b>now</b></i>");
    expect(html).toContain('<img src="cid:p3@x" alt="a &quot;hut&quot;">');
    expect(html).toMatch(/<ol><li>.*one.*<\/li>\n<li>[\s\S]*<ul><li>.*in.*<\/li><\/ul><\/li><\/ol>/);
    expect(html).toContain("<blockquote>");
    expect(htmlOf(docOfText(" two  spaces "), String)).toContain("&nbsp;two&nbsp; spaces&nbsp;");
  });
  test("as text: links with their addresses, lists with their marks, quotes marked", () => {
    expect(plainOf(RICH)).toBe(
      'see the <map> <https://huts.example/?a=1&b=2>\nnow[picture: a "hut"]\n1. one\n2. two\n  - in\n> said',
    );
  });
  test("what it holds is found, and what is no document is refused", () => {
    expect(textsOf(RICH)).toEqual(["see ", "the <map>", "now", "one", "two", "in", "said"]);
    expect(picturesOf(RICH)).toEqual([3]);
    expect([isRich(RICH), isRich(docOfText("plain"))]).toEqual([true, false]);
    expect([isBlank(docOfText(" \n")), isBlank(docOfText("x")), isBlank(RICH)]).toEqual([true, false, false]);
    expect(textsOf(mapTexts(RICH, (text) => (text === "one" ? "" : text.toUpperCase())))).not.toContain("ONE");
    expect(docSchema.safeParse(RICH).success).toBe(true);
    const bad = (block: unknown) => docSchema.safeParse({ type: "doc", content: [block] }).success;
    expect(bad({ type: "script" })).toBe(false);
    const link = { type: "link", attrs: { href: "javascript:alert(1)" } };
    expect(bad({ type: "paragraph", content: [{ type: "text", text: "x", marks: [link] }] } as unknown as Block)).toBe(
      false,
    );
  });
});

const name = fc.constantFrom("", "Ines Marlow", 'O"Neill, Bo', "Åsa <the warden>", "Ünal; Kâzım");
const address = fc.constantFrom("ines@larch.example", "b.o+x@tarn-hut.example", "åsa@hütte.example");
const person: fc.Arbitrary<Correspondent> = fc.record({ name, address });

describe("addresses", () => {
  test("what is written is read again, however many stand in a row", () => {
    fc.assert(
      fc.property(fc.array(person, { maxLength: 6 }), fc.constantFrom(", ", "; ", "\n"), (people, between) => {
        const read = readCorrespondents(people.map(writeCorrespondent).join(between));
        expect(read.map((one) => one.address)).toEqual(people.map((one) => one.address));
        expect(read.map((one) => one.name)).toEqual(people.map((one) => one.name));
      }),
    );
  });
  test.each([
    "a@b.example\r\nBcc: x@y.example",
    "a b@c.example",
    "a@b",
    "@b.example",
    "a@@b.example",
    "a@-b.example",
    ".a@b.example",
    "a..b@c.example",
    "a,b@c.example",
    '"a"@c.example',
    "a@b.example>",
    "",
    "a@b_c.example",
  ])("%j is none", (text) => expect(isAddress(text)).toBe(false));
  test.each(["a@b.example", "a.b+c@d-e.example", "josé@post.example", "x@müller.example"])("%j is one", (text) =>
    expect(isAddress(text)).toBe(true),
  );
  test("only letters before the @ need a server that takes them", () => {
    expect([needsUtf8("josé@post.example"), needsUtf8("x@müller.example")]).toEqual([true, false]);
  });
  test("everybody stands once, by address, in their order", () => {
    const [a, b] = [
      { name: "A", address: "A@x.example" },
      { name: "B", address: "b@x.example" },
    ];
    expect(eachOnce([a, b, { name: "a", address: "a@X.example" }])).toEqual([a, b]);
    expect(eachOnce([a, b], new Set(["b@x.example"]))).toEqual([a]);
  });
  test("an address that differs by a letter or two from one that is known", () => {
    const known = ["ines@larch.example", "bo@tarn.example"];
    expect(muchLike("inse@larch.example", known)).toBe("ines@larch.example");
    expect(muchLike("INES@larch.example", known)).toBeNull();
    expect(muchLike("somebody@else.example", known)).toBeNull();
  });
});

const own = new Set(["desk@huts.example", "press@huts.example"]);
const at = (address: string): Correspondent => ({ name: "", address });
const original = (more: object = {}) => ({
  from: at("ines@larch.example"),
  replyTo: [],
  to: [at("desk@huts.example"), at("bo@tarn.example")],
  cc: [at("press@huts.example"), at("ada@corrie.example"), at("ines@larch.example")],
  subject: "Key",
  messageId: "<k@larch.example>",
  references: ["<a@x>", "<b@x>"],
  ...more,
});

describe("an answer", () => {
  test("goes to who wrote; to all, to everybody else but oneself", () => {
    expect(recipientsOf("reply", original(), own)).toEqual({ to: [at("ines@larch.example")], cc: [] });
    expect(recipientsOf("reply all", original(), own)).toEqual({
      to: [at("ines@larch.example")],
      cc: [at("bo@tarn.example"), at("ada@corrie.example")],
    });
    const asked = original({ replyTo: [at("list@tarn.example")] });
    expect(recipientsOf("reply", asked, own).to).toEqual([at("list@tarn.example")]);
    const mine = original({ from: at("DESK@huts.example"), to: [at("bo@tarn.example")] });
    expect(recipientsOf("reply", mine, own).to).toEqual([at("bo@tarn.example")]);
  });
  test("names what it answers, with the thread before it, each once and not without end", () => {
    expect(threadingOf(original())).toEqual({
      inReplyTo: "<k@larch.example>",
      references: ["<a@x>", "<b@x>", "<k@larch.example>"],
    });
    const many = Array.from({ length: 80 }, (_, i) => `<m${i}@x>`);
    const { references } = threadingOf({ messageId: "<z@x>", references: many });
    expect(references.length).toBe(30);
    expect([references[0], references.at(-1), references.at(-2)]).toEqual(["<m0@x>", "<z@x>", "<m79@x>"]);
    expect(threadingOf({ messageId: null, references: ["<a@x>"] })).toEqual({ inReplyTo: null, references: ["<a@x>"] });
  });
  test.each([
    ["reply", "Key", "Re: Key"],
    ["reply", "Re: AW: Key", "Re: Key"],
    ["forward", "Re: Key", "Fwd: Key"],
    ["new", "Key", "Key"],
  ] as const)("%s to %j is %j", (kind, subject, expected) => expect(subjectOf(kind, subject)).toBe(expected));
  test("says before the quote whose it is", () => {
    expect(introOf("reply", original(), "Friday")).toBe("On Friday, ines@larch.example wrote:");
    expect(introOf("forward", original({ to: [at("desk@huts.example")], cc: [] }), "Friday").split("\n")).toEqual([
      "Forwarded message",
      "From: ines@larch.example",
      "Date: Friday",
      "Subject: Key",
      "To: desk@huts.example",
    ]);
    expect(subjectOf("reply", "Key", "[huts] ", " (1)")).toBe("[huts] Re: Key (1)");
  });
});

describe("mistakes", () => {
  const fine = {
    kind: "new" as const,
    to: [at("ines@larch.example")],
    cc: [],
    bcc: [],
    subject: "Key",
    body: docOfText("The key is here."),
    files: 0,
    list: "",
  };
  const known = ["ines@larch.example"];
  const codes = (more: object, most = 3) =>
    mistakesIn({ ...fine, ...more }, { knows: (one) => known.includes(one), known, mostPeople: most }).map(
      ({ code }) => code,
    );
  test.each([
    [{}, []],
    [{ to: [] }, ["nobody"]],
    [{ to: [at("ines@")] }, ["bad-address"]],
    [{ cc: [at("inse@larch.example")] }, ["much-like"]],
    [{ bcc: [at("stranger@else.example")] }, []],
    [{ subject: " " }, ["no-subject"]],
    [{ body: docOfText("") }, ["nothing-written"]],
    [{ body: docOfText(""), kind: "forward" }, []],
    [{ body: docOfText("see the attached map") }, ["no-file"]],
    [{ body: docOfText("see the attached map"), files: 1 }, []],
    [{ body: docOfText("Hello {first name}") }, ["blanks"]],
    [{ to: ["a", "b", "c", "d"].map((one) => at(`${one}@x.example`)) }, ["many"]],
    [{ kind: "reply all", list: "huts.lists.example" }, ["list"]],
    [{ kind: "reply", list: "huts.lists.example" }, []],
  ])("%j: %j", (more, expected) => expect(codes(more)).toEqual(expected));
  test("what stops a letter comes first", () => {
    const found = mistakesIn({ ...fine, to: [], subject: "" }, { knows: () => true, known, mostPeople: 3 });
    expect(found.map(({ severity }) => severity)).toEqual(["stops", "asks"]);
  });
});

describe("typed above what is there", () => {
  const quote: Block = {
    type: "blockquote",
    content: [{ type: "paragraph", content: [{ type: "text", text: "was" }] }],
  };
  const there: Doc = { type: "doc", content: [{ type: "paragraph" }, quote] };
  test("it takes the place of the empty line a letter begins with, and of nothing else", () => {
    expect(docAbove(docOfText("mine"), there)).toEqual({ type: "doc", content: [...docOfText("mine").content, quote] });
    const full: Doc = { type: "doc", content: [...docOfText("theirs").content, quote] };
    expect(docAbove(docOfText("mine"), full).content).toEqual([...docOfText("mine").content, ...full.content]);
    expect(docAbove({ type: "doc", content: [] }, there)).toBe(there);
  });
  test("put above once more, it stands there once", () => {
    fc.assert(
      fc.property(fc.array(fc.string({ minLength: 1 }), { minLength: 1, maxLength: 4 }), (lines) => {
        const typed = docOfText(lines.join("\n"));
        const once = docAbove(typed, there);
        expect(docAbove(typed, once)).toEqual(once);
        expect(plainOf(once).startsWith(plainOf(typed).trimEnd())).toBe(true);
      }),
    );
  });
});
