import fc from "fast-check";
import { describe, expect, test as it } from "vitest";
import {
  checkScript,
  extensionsOf,
  givenTo,
  LONGEST_SCRIPT,
  parseScript,
  placeIn,
  printScript,
  textOfProblem,
  type Argument,
  type Block,
  type Command,
  type Test,
} from ".";

/** A script without where it was written. */
const bare = (value: unknown): unknown =>
  JSON.parse(JSON.stringify(value, (key, inner: unknown) => (key === "span" ? undefined : inner)));

const span = { from: 0, to: 0 };
const name = fc.constantFrom("keep", "x", "fileinto", "a_1", "_b");
const text = fc.string({ unit: "grapheme", maxLength: 12 }).map((one) => one.replace(/\r/g, ""));
const argument: fc.Arbitrary<Argument> = fc.oneof(
  fc.nat().map((value): Argument => ({ kind: "number", value, span })),
  name.map((one): Argument => ({ kind: "tag", name: one, span })),
  text.map((one): Argument => ({ kind: "texts", texts: [one], isList: false, span })),
  fc
    .array(fc.oneof(text, fc.constant("a longer text, so that lines are broken")), { minLength: 1, maxLength: 6 })
    .map((texts): Argument => ({ kind: "texts", texts, isList: true, span })),
);
const args = fc.array(argument, { maxLength: 3 });
const { script } = fc.letrec<{ test: Test; command: Command; script: Block }>((tie) => ({
  test: fc.oneof(
    { depthSize: "small" },
    fc.record({ name, args, tests: fc.constant([]), span: fc.constant(span) }),
    fc.record({ name, args, tests: fc.array(tie("test"), { minLength: 1, maxLength: 3 }), span: fc.constant(span) }),
  ),
  command: fc.record({
    name,
    args,
    tests: fc.oneof({ depthSize: "small" }, fc.constant([]), fc.array(tie("test"), { minLength: 1, maxLength: 2 })),
    comments: fc.array(fc.constantFrom("", "3: Invoices", "# twice", "  in"), { maxLength: 2 }),
    block: fc.oneof({ depthSize: "small", withCrossShrink: true }, fc.constant(null), tie("script")),
    span: fc.constant(span),
  }),
  script: fc.record({
    commands: fc.array(tie("command"), { maxLength: 3 }),
    comments: fc.array(fc.constantFrom("the end", ""), { maxLength: 1 }),
  }),
}));

describe("a script", () => {
  it("printed and read is the same script", () => {
    fc.assert(
      fc.property(script, (one) => {
        const { script: again, problems } = parseScript(printScript(one));
        expect(problems).toEqual([]);
        expect(bare(again)).toEqual(bare(one));
      }),
    );
  });

  it("is read whatever it is", () => {
    const bits = fc.array(
      fc.constantFrom('"', "{", "}", "(", ")", "[", "]", ",", ";", ":", "if", "text:\n", "1K", "#", "/*", "\\", "a"),
    );
    fc.assert(
      fc.property(
        bits.map((all) => all.join(" ")),
        (source) => {
          const { problems } = parseScript(source);
          for (const problem of problems) {
            expect(problem.span.from).toBeLessThanOrEqual(problem.span.to);
            expect(problem.span.to).toBeLessThanOrEqual(source.length);
            expect(textOfProblem(problem)).not.toBe("");
          }
        },
      ),
    );
  });

  it("knows numbers, texts of several lines, comments and escapes", () => {
    const source = [
      "# before",
      'require ["body"]; /* a',
      " b */",
      "if size :over 2K { stop; } # in the line",
      'keep "a \\"b\\" \\c\\\\";',
      "x text: # not of it",
      "one",
      "..two",
      ".",
      ";",
    ].join("\r\n");
    const { script: read, problems } = parseScript(source);
    expect(problems).toEqual([]);
    const [require, branch, keep, lines] = read.commands;
    expect(require!.comments).toEqual(["before"]);
    expect(branch!.comments).toEqual(["a", "b"]);
    expect(bare(branch!.tests[0])).toEqual({
      name: "size",
      args: [
        { kind: "tag", name: "over" },
        { kind: "number", value: 2048 },
      ],
      tests: [],
    });
    expect(bare(keep!.args)).toEqual([{ kind: "texts", texts: ['a "b" c\\'], isList: false }]);
    expect(keep!.comments).toEqual(["in the line"]);
    expect(bare(lines!.args)).toEqual([{ kind: "texts", texts: ["one\n.two\n"], isList: false }]);
    expect(source.slice(keep!.span.from, keep!.span.to)).toBe('keep "a \\"b\\" \\c\\\\";');
  });

  it.each([
    ['keep "open', 6, 'This text is never closed: add a " at its end.'],
    ["keep; /* open", 7, "This comment is never closed: add */ at its end."],
    ["x text:\nopen", 3, 'This text is never closed: end it with a line that holds only ".".'],
    ["keep", 5, '";" is expected here, not the end of the script.'],
    ["if true { keep;", 16, '"}" is expected here, not the end of the script.'],
    ["if anyof (true, 3) { }", 17, 'A test is expected here, not "3".'],
    ['x ["a" "b"];', 8, '"]" is expected here, not "b".'],
    ["keep; €;", 7, '"€" is not expected here: take it out.'],
    ["keep; } stop;", 7, '"}" is not expected here: take it out.'],
    ["x 99999999999G;", 3, "Numbers go up to 9007199254740991."],
  ])("says what is wrong with %j", (source, column, said) => {
    const { problems } = parseScript(source);
    expect(problems.map(textOfProblem)).toContain(said);
    const found = problems.find((problem) => textOfProblem(problem) === said)!;
    expect(found.span.from + 1).toBe(column);
  });

  it("is bounded in depth and length", () => {
    const deep = `${"if true {".repeat(5000)}${"}".repeat(5000)}`;
    expect(parseScript(deep).problems.some(({ code }) => code === "too-deep")).toBe(true);
    expect(parseScript(`if ${"not ".repeat(5000)}true {}`).problems.some(({ code }) => code === "too-deep")).toBe(true);
    const long = parseScript(`${"keep;\n".repeat(100_000)}`);
    expect(long.problems).toEqual([
      { code: "too-long", span: { from: LONGEST_SCRIPT, to: 600_000 }, most: LONGEST_SCRIPT },
    ]);
  });

  it("says where it is by line and column", () => {
    expect(placeIn("a\nbc\nd", 4)).toEqual({ line: 2, column: 3 });
    expect(placeIn("a", 0)).toEqual({ line: 1, column: 1 });
  });
});

describe("what does not fit", () => {
  const saidOf = (source: string) => checkScript(parseScript(source).script).map(textOfProblem);

  it.each([
    ["keep;", []],
    ['require "fileinto"; fileinto "A";', []],
    ['fileinto "A"; fileinto "B";', ['"fileinto" needs require "fileinto" at the beginning.']],
    ['require "fileinto"; fileinto :copy "A";', ['":copy" needs require "copy" at the beginning.']],
    ["juggle;", ['The command "juggle" is not known here.']],
    ["if virtue { stop; }", ['The test "virtue" is not known here.']],
    ["else { stop; }", ['"else" stands without an "if" before it.']],
    ["if true { } else { } else { }", ['"else" stands without an "if" before it.']],
    ["stop 3;", ['"stop" takes nothing behind it.']],
    ["keep :soon;", ['"keep" does not take ":soon".']],
    ['if header "subject" { }', ['"header" takes texts, then texts.']],
    ["if size :over { }", ['"size" takes a number.']],
    ["if not (true, true) { }", ['"not" takes one test.']],
    ["if anyof { }", ['"anyof" takes tests in brackets.']],
    ["if true;", ['"if" takes one test, then a block in { }.']],
    ['if header :value "ge" "a" "b" { }', ['":value" needs require "relational" at the beginning.']],
    ['if header :comparator "a" "b" { }', ['"header" takes texts, then texts.']],
    ["if header :comparator 3 { }", ['":comparator" takes a text behind it.']],
    [
      'require "imap4flags"; addflag "x"; addflag "v" ["x"]; addflag ["v"] "x";',
      ['"addflag" takes a text (or none), then texts.'],
    ],
  ])("%j", (source, said) => {
    expect(saidOf(source)).toEqual(said);
  });

  it("is nothing that was given", () => {
    const [command] = parseScript('fileinto :flags "x" :copy "A";').script.commands;
    const given = givenTo(command!, true)!;
    expect([...given.tags.keys()]).toEqual(["flags", "copy"]);
    expect(bare(given.places)).toEqual([{ kind: "texts", texts: ["A"], isList: false }]);
    expect(givenTo({ ...command!, name: "toString" }, true)).toBeNull();
    expect(givenTo(command!, false)).toBeNull();
  });

  it("names the extensions a script needs, each once", () => {
    const source = 'if hasflag "x" { fileinto :copy "A"; } if body :text :contains "b" { fileinto "B"; }';
    expect(extensionsOf(parseScript(source).script)).toEqual(["body", "copy", "fileinto", "imap4flags"]);
    expect(extensionsOf(parseScript('require "envelope"; keep;').script)).toEqual([]);
  });
});
