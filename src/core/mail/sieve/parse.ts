import type { Argument, Block, Command, Problem, Test } from "./script";
import { tokens, type Token } from "./tokens";

export const LONGEST_SCRIPT = 500_000;
/** Real scripts stand five deep; recursion stays shallow whatever is given. */
const DEEPEST = 40;

/** A problem at every other character helps nobody. */
const MOST_PROBLEMS = 50;

export interface Parsed {
  /** What could be read; whole where there are no problems. */
  readonly script: Block;
  readonly problems: readonly Problem[];
}

const textOf = (token: Token): string => ("text" in token ? token.text : String(token.value));

/** The lines of a comment, without the blank that usually stands before the first word. */
const linesOf = (comment: string): string[] => comment.split(/\r?\n/).map((line) => line.replace(/^ /, "").trimEnd());

class Reader {
  private at = 0;
  private comments: string[] = [];
  readonly problems: Problem[] = [];
  constructor(
    private readonly list: readonly Token[],
    private readonly length: number,
  ) {}

  /** The next token that is no comment; those passed over are kept for the command that follows. */
  private peek(): Token | undefined {
    for (let token = this.list[this.at]; token?.kind === "comment"; token = this.list[++this.at])
      this.comments.push(...linesOf(token.text));
    return this.list[this.at];
  }

  private takeComments(): string[] {
    const taken = this.comments;
    this.comments = [];
    return taken;
  }

  private isSign(text: string): boolean {
    const token = this.peek();
    return token?.kind === "sign" && token.text === text;
  }

  private take(text: string): boolean {
    if (!this.isSign(text)) return false;
    this.at++;
    return true;
  }

  private expected(what: string): void {
    const token = this.peek();
    const span = token?.span ?? { from: this.length, to: this.length };
    this.problems.push({ code: "expected", span, what, text: token ? textOf(token) : "" });
  }

  /** commands = *command, up to the end or to the "}" of the block. */
  block(depth: number): Block {
    const commands: Command[] = [];
    for (let token = this.peek(); token; token = this.peek()) {
      if (depth > 0 && this.isSign("}")) break;
      if (token.kind === "word") commands.push(this.command(token, depth));
      else {
        this.problems.push({ code: "stray", span: token.span, text: textOf(token) });
        this.at++;
      }
    }
    return { commands, comments: this.takeComments() };
  }

  /** command = identifier arguments (";" / block) */
  private command(word: Token, depth: number): Command {
    const comments = this.takeComments();
    this.at++;
    const { args, tests } = this.arguments(depth);
    let block: Block | null = null;
    if (this.isSign("{")) {
      const open = this.peek()!;
      this.at++;
      if (depth >= DEEPEST) this.tooDeep(open);
      else block = this.block(depth + 1);
      if (!this.take("}")) this.expected('"}"');
    } else if (!this.take(";")) {
      this.expected('";"');
      this.passOver();
    }
    const to = this.list[this.at - 1]!.span.to;
    return { name: textOf(word), args, tests, block, comments, span: { from: word.span.from, to } };
  }

  /** arguments = *argument [ test / test-list ] */
  private arguments(depth: number): { args: Argument[]; tests: Test[] } {
    const args: Argument[] = [];
    const tests: Test[] = [];
    for (let token = this.peek(); token; token = this.peek()) {
      const { span } = token;
      if (token.kind === "number") args.push({ kind: "number", value: token.value, span });
      else if (token.kind === "tag") args.push({ kind: "tag", name: token.text, span });
      else if (token.kind === "text") args.push({ kind: "texts", texts: [token.text], isList: false, span });
      else if (this.isSign("[")) {
        args.push(this.list_(token));
        continue;
      } else break;
      this.at++;
    }
    const token = this.peek();
    if (token?.kind === "word") tests.push(this.test(token, depth + 1));
    else if (token && this.take("(")) {
      do {
        const one = this.peek();
        if (one?.kind !== "word") {
          this.expected("A test");
          break;
        }
        tests.push(this.test(one, depth + 1));
      } while (this.take(","));
      if (!this.take(")")) this.expected('")"');
    }
    return { args, tests };
  }

  /** string-list = "[" string *("," string) "]" */
  private list_(open: Token): Argument {
    this.at++;
    const found: string[] = [];
    do {
      const token = this.peek();
      if (token?.kind !== "text") {
        this.expected("A text in quotes");
        break;
      }
      found.push(token.text);
      this.at++;
    } while (this.take(","));
    if (!this.take("]")) this.expected('"]"');
    const to = this.list[this.at - 1]!.span.to;
    return { kind: "texts", texts: found, isList: true, span: { from: open.span.from, to } };
  }

  private test(word: Token, depth: number): Test {
    this.at++;
    const none = { name: textOf(word), args: [], tests: [], span: word.span };
    if (depth >= DEEPEST) {
      this.tooDeep(word);
      return none;
    }
    const inner = this.arguments(depth);
    const to = this.list[this.at - 1]!.span.to;
    return { ...none, ...inner, span: { from: word.span.from, to } };
  }

  private tooDeep({ span }: Token): void {
    this.problems.push({ code: "too-deep", span, most: DEEPEST });
    this.at = this.list.length;
  }

  /** To behind the next ";", or to before the "}" that ends the block. */
  private passOver(): void {
    for (let token = this.peek(); token && !this.isSign("}"); token = this.peek()) {
      this.at++;
      if (token.kind === "sign" && token.text === ";") return;
    }
  }
}

/** Reads a script. Never throws for what somebody wrote: problems come back with where they are. */
export function parseScript(source: string): Parsed {
  if (source.length > LONGEST_SCRIPT) {
    const span = { from: LONGEST_SCRIPT, to: source.length };
    return { script: { commands: [], comments: [] }, problems: [{ code: "too-long", span, most: LONGEST_SCRIPT }] };
  }
  const split = tokens(source);
  const reader = new Reader(split.tokens, source.length);
  const script = reader.block(0);
  const problems = [...split.problems, ...reader.problems].sort((a, b) => a.span.from - b.span.from);
  return { script, problems: problems.slice(0, MOST_PROBLEMS) };
}
