import { describe, expect, test } from "vitest";
import { context, directory } from "../../../../tests/fixtures/macro";
import { parseScript } from "../../mail/sieve";
import type { Step } from "../../macro";
import { handOut, takeIn, type OutRule } from ".";

/**
 * What scripts say of rules and rules of scripts, where the two differ and what is left out. That what both can say
 * comes to the same is held by a comparison with another interpreter (tests/server/sieve.test.ts).
 */

const rule = (narrow: string, steps: readonly Step[], more: Partial<OutRule> = {}): OutRule => ({
  narrow,
  time: "arrival",
  on: true,
  stop: false,
  list: null,
  macro: { name: "Deed", steps, settings: {} },
  remark: null,
  ...more,
});
const READ: readonly Step[] = [{ do: "read" }];
const out = (...rules: readonly OutRule[]) => handOut(rules, context, []);
const REQUIRE = 'require ["body", "copy", "date", "envelope", "fileinto", "imap4flags", "subaddress", "variables"];\n';
/** Each line is one further down than it is written. */
const into = (script: string) => {
  const taken = takeIn(`${REQUIRE}${script}`, directory, context.zone);
  if (!taken.ok) throw new Error(JSON.stringify(taken.problems));
  return taken;
};
const conditionOf = (test: string) => into(`if ${test} { addflag "\\\\Seen"; }`).rules[0];

describe("handed out", () => {
  test("a rule is its name, its condition and what it does", () => {
    const { script, notes } = out(
      rule("from~larch", [{ do: "move", to: "Archive" }], { stop: true, remark: "ask Ines\nfirst" }),
      rule("", [{ do: "read" }, { do: "label", add: "Winter season" }]),
    );
    expect(notes).toEqual([]);
    expect(script).toBe(
      [
        'require ["fileinto", "imap4flags"];',
        "",
        "# 1: Deed",
        "# remark: ask Ines",
        "# remark: first",
        'if header :contains "from" "larch" {',
        '  fileinto "Archive";',
        "  stop;",
        "}",
        "",
        "# 2: Deed",
        'addflag "\\\\Seen";',
        'addflag "Winter=20season";',
        "",
      ].join("\n"),
    );
  });

  test("where the last of several places counts, it is noted until the end", () => {
    const { script } = out(
      rule("from~larch", [{ do: "move", to: "Archive" }]),
      rule("folder=Archive", [{ do: "move", to: "Trash" }], { stop: true }),
    );
    expect(script).toContain('set "folder" "Archive";');
    expect(script).toContain('string :is "${folder}" "Archive"');
    expect(script.match(/fileinto "\$\{folder\}"/g)).toHaveLength(2);
  });

  test.each<[string, OutRule, string]>([
    ["is off", rule("", READ, { on: false }), "It is switched off."],
    ["is for sending", rule("", READ, { time: "sending" }), "It is for letters as you send them."],
    ["has no macro", rule("", [], { macro: null }), "Its macro was deleted."],
    ["has an empty list", rule("", READ, { list: { name: "A", addresses: [] } }), "Nobody is on its list."],
    ["means nothing", rule("mine", READ), "It means no mail that comes in."],
    [
      "asks what only we know",
      rule("age>7d from~larch file~pdf", READ),
      "It cannot be said there: “age>7d”, “file~pdf”.",
    ],
    ["does what only we do", rule("", [{ do: "owe" }, { do: "pin" }]), "It cannot be said there: “owe”, “pin”."],
    [
      "goes where it is guessed",
      rule("", [{ do: "move", to: { guess: "folder" } }]),
      "It cannot be said there: “move as guessed”.",
    ],
    [
      "asks in its macro",
      rule("", READ, { macro: { name: "Deed", steps: READ, settings: { for: "note~x" } } }),
      "It cannot be said there: “note~x”.",
    ],
    [
      "runs what is not there",
      rule("", [{ do: "run macro", macro: "Gone" }]),
      "It cannot be said there: “run macro Gone”.",
    ],
  ])("one that %s is left out, and says why", (_, one, why) => {
    const { script, notes } = out(one);
    expect(notes).toEqual([{ rule: 1, left: why, near: [] }]);
    expect(script).toBe(
      `# 1: ${one.macro?.name ?? "no macro"}\n${one.list ? "# for the list A\n" : ""}# left out: ${why}\n`,
    );
  });

  test("one that is left out still ends what it stops, where its condition can be said", () => {
    const { script } = out(rule("from~larch", [{ do: "owe" }], { stop: true }), rule("", READ));
    expect(script).toContain('if header :contains "from" "larch" {\n  stop;\n}');
    const lost = out(rule("age>7d", [{ do: "owe" }], { stop: true }), rule("", READ));
    expect(lost.script).not.toContain("stop;");
    expect(lost.notes[0]!.near).toEqual([expect.stringContaining("rules after it may do more")]);
  });

  test("one behind a rule that stops all mail is never done", () => {
    const { notes } = out(rule("", READ, { stop: true }), rule("from~larch", READ));
    expect(notes).toEqual([{ rule: 2, left: "A rule before it stops all mail.", near: [] }]);
  });

  test.each([
    ["from=ines@larch.example", 'address :is "from" "ines@larch.example"', ["punctuation"]],
    ["from~@larch.example", 'header :contains "from" "@larch.example"', ["punctuation"]],
    ["from~larch", 'header :contains "from" "larch"', []],
    ["to~larch", 'header :contains ["to", "cc"] "larch"', []],
    ["subject=Beds", 'header :is "subject" "Beds"', ["punctuation"]],
    ['subject~"*beds"', 'header :contains "subject" "beds"', []],
    ["subject~café", '"café*"', ["punctuation"]],
    ["from=marsh", '"marsh*"', ["whole word"]],
    ["list~hut", 'header :contains "list-id" "hut"', ["the list counts"]],
    ["via=desk@huts.example", '"delivered-to"', ["one of your own", "punctuation"]],
    ["text~hut", 'body :text :matches ["hut*"', ["attachments"]],
    ["size>1k", "size :over 1024", []],
    ["size=1k..2k", "size :under 2049", []],
    ["date=2026-10-03", '"2026-10-02T22:00:00+00:00"', []],
    ["!(read | flagged)", 'not anyof (\n  hasflag "\\\\Seen",\n  hasflag "\\\\Flagged"\n)', []],
    ["marked", 'hasflag ["marker-R", "marker-W"]', []],
  ])("%s", (narrow, said, near) => {
    const { script, notes } = out(rule(narrow, READ));
    expect(script.replace(/\[\n\s+/g, "[")).toContain(said);
    expect(notes[0]?.near ?? []).toEqual(near.map((text) => expect.stringContaining(text) as string));
  });

  test("a name that would be a command, or be put in the place of another, is neither", () => {
    const odd = { name: "Deed\nkeep;\r\ndiscard;", steps: READ, settings: {} };
    const { script } = out(rule("from~larch", READ, { macro: odd, remark: "x\rstop;" }));
    const names = parseScript(script).script.commands.map(({ name }) => name);
    expect(names).toEqual(["require", "if"]);
    expect(out(rule('subject~"${folder}"', READ)).notes[0]!.left).toContain("subject~");
    expect(out(rule('"${folder}"', READ)).notes[0]!.left).toContain("${folder}");
    const path = directory.folders.map((folder) => ({ ...folder, path: `${folder.path}/\${x}` }));
    const moved = handOut(
      [rule("", [{ do: "move", to: "Archive/${x}" }])],
      { ...context, directory: { ...directory, folders: path } },
      [],
    );
    expect(moved.notes[0]!.left).toContain("move Archive");
  });

  test("a flag's date is not said", () => {
    expect(out(rule("", [{ do: "flag", due: "tomorrow 9" }])).notes[0]!.near).toEqual([
      "There the flag has no date and no note.",
    ]);
  });
});

describe("taken in", () => {
  test("conditions that are the same, or nearly", () => {
    const cases: [string, string, string[]][] = [
      ['header :contains "Subject" "beds"', 'subject~"*beds"', []],
      ['header :contains "subject" "beds, two"', 'subject~"*beds, two"', ["punctuation"]],
      ['header :is "subject" "Beds"', "subject=Beds", ["punctuation"]],
      ['header :matches "subject" "*beds*"', 'subject~"*beds"', []],
      ['header :contains ["to", "cc"] "larch"', "to~larch", []],
      ['header :contains "to" "larch"', "to~larch", ["copied"]],
      ['header :contains ["subject", "from"] "larch"', 'subject~"*larch" | from~larch', []],
      ['address :is "from" "ines@larch.example"', "from=ines@larch.example", ["punctuation"]],
      ['address :domain :is "from" "larch.example"', "from~@larch.example", ["punctuation"]],
      ['address :localpart "from" "ines"', "from~ines@", ["punctuation"]],
      ['address :user "to" "desk"', 'to~"desk+"', ["copied", "punctuation"]],
      ['address :detail "to" "beds"', 'to~"+beds@"', ["copied", "punctuation"]],
      ['address :contains "from" "larch"', "from~larch", ["name beside"]],
      ['envelope "from" "ines@larch.example"', "from=ines@larch.example", ["punctuation"]],
      ['exists "list-id"', "listmail", ["leave"]],
      ['anyof (exists "list-unsubscribe", exists "list-id")', "listmail", []],
      ["not size :over 2K", "!size>2048", []],
      ['body :text :contains "beds"', "body~beds", ["inside"]],
      ['allof (true, hasflag "\\\\Flagged")', "flagged", []],
      ['hasflag ["Winter=20season", "marker-w"]', 'label="Winter season" | marker=W', []],
      ["allof (size :over 1, anyof (size :over 2, not size :over 3))", "size>1 (size>2 | !size>3)", []],
      ["not allof (size :over 1, size :under 9)", "!(size>1 size<9)", []],
    ];
    for (const [test, narrow, near] of cases) {
      const found = conditionOf(test);
      expect(found?.narrow, test).toBe(narrow);
      expect(found!.near, test).toEqual(near.map((text) => expect.stringContaining(text) as string));
    }
  });

  test.each([
    ['header :contains "X-Spam" "yes"', "no condition here for the header"],
    ['header :contains "subject" "!!"', "no letters or digits"],
    ['header :matches "subject" "a*b"', "no such patterns"],
    ['header :is "from" "Ines"', "not compared as one text"],
    ['header :comparator "i;octet" "subject" "A"', "upper and lower case"],
    ['address :localpart :contains "from" "i"', "only compared whole"],
    ['exists "date"', "whether a header is there"],
    ["size :over 4G", "No mail is so large"],
    ['body :raw :contains "x"', "not its source"],
    ['currentdate "hour" "9"', "has no condition here"],
    ['date "date" "hour" "9"', "whole days"],
    ['hasflag "\\\\Draft"', "means nothing here"],
    ['hasflag "marker-Z"', "means nothing here"],
    ['string "${x}" "y"', "no variables"],
    ['header :contains "subject" "${x}"', "no variables"],
    ["virtue", "not known here"],
    ["false", "never holds"],
    ["not true", "never holds"],
  ])("%s is left, and kept in a remark", (test, why) => {
    const source = `if ${test} { addflag "\\\\Seen"; } else { stop; }\nfileinto "Archive";`;
    const { rules, left } = into(source);
    expect(left.map((one) => one.why)).toContainEqual(expect.stringContaining(why));
    expect(left).toMatchObject([{ line: 2, column: 1 }, { line: 2 }]);
    // What hangs on it is left with it; what stands behind it is not.
    expect(rules).toMatchObject([{ narrow: "", steps: [{ do: "move", to: "Archive" }] }]);
    expect(rules[0]!.remark).toContain(`not taken in: if ${test}`);
    expect(rules[0]!.remark).toContain("not taken in: else { stop; }");
  });

  test("what a command does that nothing here does is left alone", () => {
    const { rules, left } = into(
      'if size :over 1 { redirect "a@larch.example"; fileinto "Archive"; stop; } vacation "x";',
    );
    expect(left.map(({ why }) => why)).toEqual([
      "Nothing here does what “redirect” does.",
      "“vacation” is not known here, or does not fit.",
    ]);
    expect(into('fileinto "${x}"; set "x" "y"; addflag "v" "x";').left.map(({ why }) => why)).toEqual(
      Array.from({ length: 3 }, () => "There are no variables here."),
    );
    expect(rules).toMatchObject([
      {
        steps: [{ do: "move", to: "Archive" }],
        stop: true,
        remark: 'not taken in: redirect "a@larch.example";\nnot taken in: vacation "x";',
      },
    ]);
  });

  test("branches are rules, each without those before it", () => {
    const { rules } = into(`
      # Large
      if size :over 9 { addflag "\\\\Seen"; stop; }
      elsif size :over 5 { fileinto "Archive"; }
      else { addflag "\\\\Flagged"; }`);
    expect(rules).toMatchObject([
      { name: "Large", narrow: "size>9", steps: [{ do: "read" }], stop: true },
      { narrow: "size>5", steps: [{ do: "move", to: "Archive" }], stop: false },
      { narrow: "!size>5", steps: [{ do: "flag" }], stop: false },
    ]);
  });

  test("what stops in the middle is taken apart", () => {
    const { rules } = into('if size :over 5 { if size :over 9 { stop; } fileinto "Archive"; stop; }');
    expect(rules).toMatchObject([
      { narrow: "size>5 size>9", steps: [{ do: "stop" }], stop: true },
      { narrow: "size>5", steps: [{ do: "move", to: "Archive" }], stop: true },
    ]);
  });

  test("what was filed before is filed once more as a copy", () => {
    const { rules } = into('if size :over 5 { fileinto "Archive"; } if size :under 9 { fileinto "Trash"; }');
    expect(rules[1]!.steps).toEqual([
      { do: "if", narrow: "folder=Inbox", then: [{ do: "move", to: "Trash" }], else: [{ do: "copy", to: "Trash" }] },
    ]);
  });

  test("several senders are a list", () => {
    const { rules } = into(`
      # 4: Suppliers' mail
      # for the list Suppliers
      # nearly: whatever
      # remark: ask first
      if allof (address :is "from" ["Ines@larch.example", "b@larch.example"], size :over 5) { fileinto "Archive"; stop; }
      if address "from" ["c@larch.example", "d@larch.example"] { keep; stop; }`);
    expect(rules).toMatchObject([
      {
        name: "Suppliers' mail",
        narrow: "size>5",
        list: { name: "Suppliers", addresses: ["ines@larch.example", "b@larch.example"] },
        remark: "ask first",
      },
      { name: "Sieve rule 2", narrow: "", list: { name: "Senders of Sieve rule 2" }, steps: [{ do: "stop" }] },
    ]);
  });

  test("a list in a branch that others hang on is named one by one", () => {
    const { rules } = into('if address "from" ["a@b.example", "c@d.example"] { keep; } else { discard; }');
    expect(rules).toMatchObject([
      {
        narrow: "!(from=a@b.example | from=c@d.example)",
        steps: [{ do: "trash" }],
        near: [expect.any(String), expect.any(String)],
      },
    ]);
  });

  test("a marker that is taken off is cleared where it is on", () => {
    expect(into('removeflag ["marker-R", "Invoice"];').rules[0]!.steps).toEqual([
      { do: "label", remove: "Invoice" },
      { do: "if", narrow: "marker=R", then: [{ do: "marker", clear: true }] },
    ]);
  });

  test("a test that is missing is said", () => {
    const { left } = into("if { stop; } if not { stop; } if anyof { keep; }");
    expect(left.map(({ why }) => why)).toEqual(["“if” has no test.", "“not” has no test.", "“anyof” has no test."]);
  });

  test("what cannot be read says where", () => {
    expect(takeIn('keep;\nif size { "', directory, context.zone)).toEqual({
      ok: false,
      problems: [
        { line: 2, column: 11, why: 'This text is never closed: add a " at its end.' },
        { line: 2, column: 11, why: '"" is not expected here: take it out.' },
        { line: 2, column: 12, why: '"}" is expected here, not the end of the script.' },
      ],
    });
  });

  test("a condition or a macro that would be too long is left", () => {
    const many = Array.from({ length: 150 }, (_, i) => `size :over ${i}`).join(", ");
    expect(into(`if anyof (${many}) { stop; }`).left[0]!.why).toContain("Its condition is longer");
    expect(into(`if true { ${'fileinto :copy "Archive"; '.repeat(60)} }`).left[0]!.why).toContain("more than a macro");
  });

  test("an extension that is not required is said, and the rule is taken", () => {
    const taken = takeIn('fileinto "Archive";', directory, context.zone);
    expect(taken).toMatchObject({ ok: true, rules: [{ steps: [{ do: "move", to: "Archive" }] }] });
    expect(taken.ok && taken.left).toEqual([
      { line: 1, column: 1, why: '"fileinto" needs require "fileinto" at the beginning.' },
    ]);
  });
});
