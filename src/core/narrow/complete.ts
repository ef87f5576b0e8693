import { fold } from "./fold";
import { tokens, type Token } from "./tokens";
import { FIELDS, STATES, type Field, type Span } from "./tree";
import { quoted } from "./write";

/** A value that a field has somewhere, and how many messages have it. */
export interface ValueHint {
  readonly value: string;
  readonly count: number;
  /** What stands beside it, such as a person's name. */
  readonly detail?: string;
}

/** What values fields have, the likeliest first. */
export type Vocabulary = (field: Field) => readonly ValueHint[];

export interface Completion {
  /** What is put in the place of the span. */
  readonly text: string;
  readonly span: Span;
  readonly detail: string;
  readonly count: number | null;
  /** Whether the condition is whole with it; else a value is to follow. */
  readonly whole: boolean;
}

const MOST = 12;

const FIELD_DETAIL: Record<Field, string> = {
  from: "who sent it",
  to: "sent or copied to",
  cc: "copied to",
  anyone: "from or to",
  via: "address it came to",
  subject: "in the subject",
  body: "in the text",
  text: "anywhere",
  file: "attachment's name",
  folder: "where it is",
  label: "with the label",
  marker: "with the marker",
  list: "mailing list",
  note: "in your note",
  size: "1M, 10k..200k",
  age: "7d, 2w, 6mo",
  date: "2026-11, today",
  due: "flag or task is due",
  deferred: "comes back",
  account: "account it is in",
};

/** What is likely to follow a field where there is nothing to choose from. */
const EXAMPLES: Partial<Record<Field, readonly string[]>> = {
  size: [">100k", ">1M", ">10M"],
  age: [">7d", ">30d", "<1d"],
  date: ["=today", "=yesterday", "=2026-11"],
  due: ["<=today", "<=tomorrow"],
  deferred: ["<=today", "<=tomorrow"],
};
const NAMED = new Set<Field>(["folder", "label", "marker", "account", "via"]);

/** The token the caret is in or just behind. */
function tokenAt(source: string, caret: number): Token | null {
  return tokens(source).tokens.find((token) => token.span.from < caret && caret <= token.span.to) ?? null;
}

function valuesFor(token: Extract<Token, { kind: "compare" }>, field: Field, vocabulary: Vocabulary): Completion[] {
  const sought = fold(token.value ?? "").slice(0, -1);
  const begins = (hint: ValueHint) => fold(`${hint.value} ${hint.detail ?? ""}`).includes(sought);
  return vocabulary(field)
    .filter(begins)
    .slice(0, MOST)
    .map(({ value, count, detail }) => ({
      text: quoted(value),
      span: token.valueSpan,
      detail: detail ?? "",
      count,
      whole: true,
    }));
}

/**
 * What could be written where the caret is: fields and states by their beginning, then values of a field with
 * how many messages have them.
 */
export function complete(source: string, caret: number, vocabulary: Vocabulary): Completion[] {
  const token = tokenAt(source, caret);
  if (token?.kind === "compare") {
    const field = FIELDS.find((name) => name === token.field);
    return field ? valuesFor(token, field, vocabulary) : [];
  }
  if (token?.kind === "text" && token.quoted) return [];
  const typed = token?.kind === "text" ? token.text : "";
  const span: Span = token?.kind === "text" ? token.span : { from: caret, to: caret };
  const begins = (name: string) => name.startsWith(typed.toLowerCase());
  const fields = FIELDS.filter(begins).flatMap((field): Completion[] => {
    const examples = EXAMPLES[field];
    if (examples && field === typed)
      return examples.map((text) => ({ text: field + text, span, detail: "", count: null, whole: true }));
    const op = NAMED.has(field) ? "=" : examples ? "" : "~";
    return [{ text: field + op, span, detail: FIELD_DETAIL[field], count: null, whole: false }];
  });
  const states = STATES.filter(begins).map((state) => ({ text: state, span, detail: "", count: null, whole: true }));
  // With nothing typed the commonest come first; afterwards what is a word by itself before what wants a value.
  return (typed === "" ? [...fields, ...states] : [...states, ...fields]).slice(0, typed === "" ? 40 : MOST);
}
