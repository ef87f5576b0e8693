/** A Sieve script (RFC 5228) as it is written: commands with their arguments, tests and blocks. */

/** From and to, as offsets into the script in UTF-16 units; zero to zero where nobody wrote it. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

export type Argument =
  | { readonly kind: "number"; readonly value: number; readonly span: Span }
  /** Without its colon, in lower case. */
  | { readonly kind: "tag"; readonly name: string; readonly span: Span }
  | { readonly kind: "texts"; readonly texts: readonly string[]; readonly isList: boolean; readonly span: Span };

export interface Test {
  /** In lower case. */
  readonly name: string;
  readonly args: readonly Argument[];
  readonly tests: readonly Test[];
  readonly span: Span;
}

export interface Command extends Test {
  /** Lines of the comments before it. */
  readonly comments: readonly string[];
  /** null where it has none. */
  readonly block: Block | null;
}

export interface Block {
  readonly commands: readonly Command[];
  /** Lines of the comments behind the last command. */
  readonly comments: readonly string[];
}

export type Problem =
  | { readonly code: "unclosed-quote" | "unclosed-comment" | "unclosed-text"; readonly span: Span }
  | { readonly code: "stray"; readonly span: Span; readonly text: string }
  | { readonly code: "expected"; readonly span: Span; readonly what: string; readonly text: string }
  | { readonly code: "too-large" | "too-deep" | "too-long"; readonly span: Span; readonly most: number }
  | { readonly code: "unknown"; readonly span: Span; readonly what: "command" | "test"; readonly name: string }
  | { readonly code: "unknown-tag"; readonly span: Span; readonly name: string; readonly of: string }
  | { readonly code: "arguments"; readonly span: Span; readonly of: string; readonly takes: string }
  | { readonly code: "not-required"; readonly span: Span; readonly name: string; readonly extension: string }
  | { readonly code: "else-alone"; readonly span: Span; readonly name: string };

const problemText = {
  "unclosed-quote": () => `This text is never closed: add a " at its end.`,
  "unclosed-comment": () => "This comment is never closed: add */ at its end.",
  "unclosed-text": () => 'This text is never closed: end it with a line that holds only ".".',
  stray: (p) => `"${p.text}" is not expected here: take it out.`,
  expected: (p) => `${p.what} is expected here, not ${p.text === "" ? "the end of the script" : `"${p.text}"`}.`,
  "too-large": (p) => `Numbers go up to ${p.most}.`,
  "too-deep": (p) => `Blocks and tests may stand ${p.most} deep; this is deeper.`,
  "too-long": (p) => `A script may have ${p.most} characters; this one has more.`,
  unknown: (p) => `The ${p.what} "${p.name}" is not known here.`,
  "unknown-tag": (p) => `"${p.of}" does not take ":${p.name}".`,
  arguments: (p) => `"${p.of}" takes ${p.takes}.`,
  "not-required": (p) => `"${p.name}" needs require "${p.extension}" at the beginning.`,
  "else-alone": (p) => `"${p.name}" stands without an "if" before it.`,
} satisfies { [C in Problem["code"]]: (problem: Problem & { code: C }) => string };

export const textOfProblem = (problem: Problem): string =>
  (problemText[problem.code] as (p: Problem) => string)(problem);

/** @returns line and column, each from one */
export function placeIn(source: string, at: number): { line: number; column: number } {
  const before = source.slice(0, at).split("\n");
  return { line: before.length, column: before.at(-1)!.length + 1 };
}

export const NOWHERE: Span = { from: 0, to: 0 };

export const texts = (...values: readonly string[]): Argument => ({
  kind: "texts",
  texts: values,
  isList: values.length !== 1,
  span: NOWHERE,
});
export const tag = (name: string): Argument => ({ kind: "tag", name, span: NOWHERE });
export const number = (value: number): Argument => ({ kind: "number", value, span: NOWHERE });
export const test = (name: string, args: readonly Argument[] = [], tests: readonly Test[] = []): Test => ({
  name,
  args,
  tests,
  span: NOWHERE,
});
export const command = (name: string, args: readonly Argument[] = [], comments: readonly string[] = []): Command => ({
  ...test(name, args),
  comments,
  block: null,
});
export const block = (commands: readonly Command[]): Block => ({ commands, comments: [] });
/** What is done where a test holds. */
export const when = (condition: Test, commands: readonly Command[], comments: readonly string[] = []): Command => ({
  ...test("if", [], [condition]),
  comments,
  block: block(commands),
});
export const otherwise = (commands: readonly Command[]): Command => ({ ...command("else"), block: block(commands) });
