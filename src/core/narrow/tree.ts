/** From and to, as offsets into the expression in UTF-16 units. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

export const FIELDS = [
  "from",
  "to",
  "cc",
  "anyone",
  "via",
  "subject",
  "body",
  "text",
  "file",
  "folder",
  "label",
  "marker",
  "list",
  "note",
  "size",
  "age",
  "date",
  "due",
  "deferred",
  "account",
] as const;
export type Field = (typeof FIELDS)[number];

export const STATES = [
  "read",
  "unread",
  "flagged",
  "pinned",
  "answered",
  "attachment",
  "invite",
  "listmail",
  "junk",
  "owed",
  "awaited",
  "deferred",
  "returned",
  "marked",
  "task",
  "mine",
  "suspect",
  "falselink",
  "lookalike",
  "falsename",
  "otherreply",
  "failedcheck",
  "oddfile",
] as const;
export type State = (typeof STATES)[number];

export const OPERATORS = [">=", "<=", "=", "~", ">", "<"] as const;
export type Operator = (typeof OPERATORS)[number];

/** An expression as written. */
export type Tree =
  | { readonly kind: "all"; readonly span: Span }
  | { readonly kind: "and" | "or"; readonly parts: readonly Tree[]; readonly span: Span }
  | { readonly kind: "not"; readonly part: Tree; readonly span: Span }
  | { readonly kind: "word"; readonly text: string; readonly span: Span }
  | { readonly kind: "state"; readonly state: State; readonly span: Span }
  | {
      readonly kind: "compare";
      readonly field: Field;
      readonly op: Operator;
      readonly value: string;
      readonly span: Span;
      readonly valueSpan: Span;
    };

/** What is wrong, as facts; the wording is in issueText. */
export type Issue =
  | { readonly code: "unknown-field"; readonly span: Span; readonly field: string; readonly near: string | null }
  | {
      readonly code: "unknown-name";
      readonly span: Span;
      readonly what: string;
      readonly name: string;
      readonly near: string | null;
    }
  | { readonly code: "missing-value"; readonly span: Span; readonly field: string }
  | {
      readonly code: "bad-value";
      readonly span: Span;
      readonly field: string;
      readonly value: string;
      readonly example: string;
    }
  | {
      readonly code: "bad-operator";
      readonly span: Span;
      readonly field: string;
      readonly op: string;
      readonly use: string;
    }
  /** A colon where an operator belongs; "use" is the one that is most likely meant. */
  | { readonly code: "colon"; readonly span: Span; readonly field: string; readonly use: Operator }
  | { readonly code: "unclosed-quote"; readonly span: Span }
  | { readonly code: "unclosed-paren"; readonly span: Span }
  | { readonly code: "stray"; readonly span: Span; readonly text: string }
  | { readonly code: "nothing-to-find"; readonly span: Span; readonly text: string }
  | { readonly code: "too-long"; readonly span: Span; readonly most: number }
  | { readonly code: "too-many"; readonly span: Span; readonly most: number };

export const issueText = {
  "unknown-field": (i) => `There is no field "${i.field}"${i.near ? `: did you mean "${i.near}"?` : "."}`,
  "unknown-name": (i) => `There is no ${i.what} "${i.name}"${i.near ? `: did you mean "${i.near}"?` : "."}`,
  "missing-value": (i) => `Write what "${i.field}" should be.`,
  "bad-value": (i) => `"${i.value}" does not fit "${i.field}": write it like ${i.example}.`,
  "bad-operator": (i) => `"${i.field}" does not go with "${i.op}": use ${i.use}.`,
  colon: (i) => `Write ${i.field}${i.use} for what it should be: a colon means nothing here.`,
  "unclosed-quote": () => `This quote is never closed: add a " at its end.`,
  "unclosed-paren": () => `This "(" is never closed: add a ")".`,
  stray: (i) => `"${i.text}" is not expected here: take it out.`,
  "nothing-to-find": (i) => `"${i.text}" has no letters or digits to look for.`,
  "too-long": (i) => `Keep it under ${i.most} characters.`,
  "too-many": (i) => `Keep it to ${i.most} conditions: what follows is one too many.`,
} satisfies { [C in Issue["code"]]: (issue: Extract<Issue, { code: C }>) => string };

export const textOfIssue = (issue: Issue): string => (issueText[issue.code] as (i: Issue) => string)(issue);

/** The candidate that takes the fewest changes of letters, if few enough to be a slip. */
export function nearest(word: string, candidates: Iterable<string>): string | null {
  const most = word.length <= 4 ? 1 : 2;
  let best: { text: string; far: number } | null = null;
  for (const text of candidates) {
    if (Math.abs(text.length - word.length) > most + 1) continue;
    const far = distance(word.toLowerCase(), text.toLowerCase());
    if (far <= most && (!best || far < best.far)) best = { text, far };
  }
  return best?.text ?? null;
}

/** Edit distance with neighbours exchanged as one change (optimal string alignment). */
function distance(a: string, b: string): number {
  let before: number[] = [];
  let last = Array.from({ length: b.length + 1 }, (_, j) => j);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const swap = i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1];
      row[j] = Math.min(
        last[j]! + 1,
        row[j - 1]! + 1,
        last[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1),
        swap ? before[j - 2]! + 1 : Infinity,
      );
    }
    before = last;
    last = row;
  }
  return last[b.length]!;
}
