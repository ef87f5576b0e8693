import { tokens, type Token } from "./tokens";
import { FIELDS, nearest, STATES, type Field, type Issue, type Span, type State, type Tree } from "./tree";

/**
 *   expression = term { ["&"] term | "|" term }       "|" binds less tightly than "&" and a space
 *   term       = "!" term | "(" expression ")" | field operator value | state | word | phrase
 *   operator   = "=" | "~" | ">" | ">=" | "<" | "<="
 *   value      = characters without space & | ( ) "  , or anything in double quotes
 *
 * An empty expression means every message.
 */
export type Parsed =
  { readonly ok: true; readonly tree: Tree } | { readonly ok: false; readonly issues: readonly Issue[] };

export const LONGEST_EXPRESSION = 2000;
/** Deeper nesting is a mistake or an attack; recursion stays shallow. */
const DEEPEST = 50;

/** Fields whose values are names or figures; the others are texts, in which something is looked for. */
const EXACT: ReadonlySet<Field> = new Set([
  "folder",
  "label",
  "marker",
  "size",
  "age",
  "date",
  "due",
  "deferred",
  "account",
  "via",
]);

const isField = (word: string): word is Field => (FIELDS as readonly string[]).includes(word);
const isState = (word: string): word is State => (STATES as readonly string[]).includes(word);

/** Each costs a look at every message, or at an index: a thousand of them kept a server busy for a minute. */
export const MOST_TERMS = 100;

class Reader {
  private at = 0;
  private terms = 0;
  readonly issues: Issue[] = [];
  constructor(
    private readonly list: readonly Token[],
    private readonly length: number,
  ) {}

  private peek = (): Token | undefined => this.list[this.at];

  /** Everything up to the end, or to a ")" that closes an outer "(". */
  expression(depth: number): Tree {
    const parts = [this.conjunction(depth)];
    while (this.peek()?.kind === "or") {
      this.at++;
      parts.push(this.conjunction(depth));
    }
    return join("or", parts);
  }

  private conjunction(depth: number): Tree {
    const parts: Tree[] = [];
    for (let token = this.peek(); token && token.kind !== "or" && token.kind !== "close"; token = this.peek()) {
      if (token.kind === "and") {
        this.at++;
        const next = this.peek()?.kind;
        const follows = next !== undefined && next !== "and" && next !== "or" && next !== "close";
        if (parts.length === 0 || !follows) this.stray(token);
        continue;
      }
      parts.push(this.term(token, depth));
    }
    if (parts.length > 0) return join("and", parts);
    const next = this.peek();
    const here = next?.span ?? { from: this.length, to: this.length };
    // "a |" and "()" lack a part; an expression that is empty as a whole means every message.
    if (this.list.length > 0)
      this.issues.push({ code: "stray", span: next?.span ?? this.list.at(-1)!.span, text: next ? ")" : "|" });
    return { kind: "all", span: here };
  }

  private term(token: Token, depth: number): Tree {
    this.at++;
    if (++this.terms > MOST_TERMS) {
      // Said once; what follows is not read.
      if (this.terms === MOST_TERMS + 1)
        this.issues.push({ code: "too-many", span: { from: token.span.from, to: this.length }, most: MOST_TERMS });
      this.at = this.list.length;
      return { kind: "all", span: token.span };
    }
    if (token.kind === "not") {
      const next = this.peek();
      if (!next || next.kind === "or" || next.kind === "and" || next.kind === "close") {
        this.stray(token);
        return { kind: "all", span: token.span };
      }
      const part = depth < DEEPEST ? this.term(next, depth + 1) : this.tooDeep(next);
      return { kind: "not", part, span: { from: token.span.from, to: part.span.to } };
    }
    if (token.kind === "open") {
      if (depth >= DEEPEST) return this.tooDeep(token);
      const inner = this.expression(depth + 1);
      const close = this.peek();
      if (close?.kind !== "close") {
        this.issues.push({ code: "unclosed-paren", span: token.span });
        return inner;
      }
      this.at++;
      return { ...inner, span: { from: token.span.from, to: close.span.to } };
    }
    if (token.kind === "compare") return this.compare(token);
    if (token.kind === "text") {
      const { text, quoted, span } = token;
      if (!quoted) this.colon(text, span);
      return !quoted && isState(text) ? { kind: "state", state: text, span } : { kind: "word", text, span };
    }
    this.stray(token);
    return { kind: "all", span: token.span };
  }

  /** "from:warden" is one word to the parser, and nobody means it so. */
  private colon(text: string, span: Span): void {
    const at = text.indexOf(":");
    const field = text.slice(0, at).toLowerCase();
    if (at <= 0 || !isField(field)) return;
    const place = { from: span.from + at, to: span.from + at + 1 };
    this.issues.push({ code: "colon", span: place, field, use: EXACT.has(field) ? "=" : "~" });
  }

  private compare(token: Extract<Token, { kind: "compare" }>): Tree {
    const { field, op, value, span, valueSpan } = token;
    if (!isField(field)) {
      const fieldSpan: Span = { from: span.from, to: span.from + field.length };
      this.issues.push({ code: "unknown-field", span: fieldSpan, field, near: nearest(field, FIELDS) });
    } else if (value === null) this.issues.push({ code: "missing-value", span, field });
    else return { kind: "compare", field, op, value, span, valueSpan };
    return { kind: "all", span };
  }

  private tooDeep(token: Token): Tree {
    this.stray(token);
    this.at = this.list.length;
    return { kind: "all", span: token.span };
  }

  private stray(token: Token): void {
    const signs = { and: "&", or: "|", not: "!", open: "(", close: ")", text: "", compare: "" };
    this.issues.push({ code: "stray", span: token.span, text: signs[token.kind] });
  }

  /** A ")" with no "(" before it. */
  rest(): void {
    const token = this.peek();
    if (token) this.stray(token);
  }
}

function join(kind: "and" | "or", parts: readonly Tree[]): Tree {
  if (parts.length === 1) return parts[0]!;
  return { kind, parts, span: { from: parts[0]!.span.from, to: parts.at(-1)!.span.to } };
}

/** What is wrong at a place is said once, in the most telling words. */
function oneAPlace(issues: readonly Issue[]): Issue[] {
  const byPlace = new Map<number, Issue>();
  for (const issue of issues) {
    const there = byPlace.get(issue.span.from);
    if (!there || there.code === "stray") byPlace.set(issue.span.from, issue);
  }
  return [...byPlace.values()];
}

export function parse(source: string): Parsed {
  if (source.length > LONGEST_EXPRESSION)
    return {
      ok: false,
      issues: [{ code: "too-long", span: { from: LONGEST_EXPRESSION, to: source.length }, most: LONGEST_EXPRESSION }],
    };
  const split = tokens(source);
  const reader = new Reader(split.tokens, source.length);
  const tree = reader.expression(0);
  reader.rest();
  const issues = oneAPlace([...split.issues, ...reader.issues]);
  return issues.length > 0 ? { ok: false, issues } : { ok: true, tree };
}
