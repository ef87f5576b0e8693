import { OPERATORS, type Issue, type Operator, type Span } from "./tree";

export type Token =
  | { readonly kind: "and" | "or" | "not" | "open" | "close"; readonly span: Span }
  | { readonly kind: "text"; readonly text: string; readonly quoted: boolean; readonly span: Span }
  /** A field, its operator and the value, which is null where nothing stands. */
  | {
      readonly kind: "compare";
      readonly field: string;
      readonly op: Operator;
      readonly value: string | null;
      readonly span: Span;
      readonly valueSpan: Span;
    };

const SIGNS: Record<string, "and" | "or" | "not" | "open" | "close"> = {
  "&": "and",
  "|": "or",
  "!": "not",
  "(": "open",
  ")": "close",
};
const ENDS_BARE = new Set([" ", "\t", "\n", "&", "|", "(", ")", '"']);

/** Splits an expression into tokens. One pass, no backtracking: linear in its length. */
export function tokens(source: string): { tokens: Token[]; issues: Issue[] } {
  const out: Token[] = [];
  const issues: Issue[] = [];
  let at = 0;

  const quoted = (): string => {
    const start = at++;
    let text = "";
    for (;;) {
      const end = source.indexOf('"', at);
      if (end < 0) {
        issues.push({ code: "unclosed-quote", span: { from: start, to: source.length } });
        text += source.slice(at);
        at = source.length;
        return text;
      }
      text += source.slice(at, end);
      at = end + 1;
      // A quote in the text is written twice.
      if (source[at] !== '"') return text;
      text += '"';
      at++;
    }
  };
  const bare = (stop?: (at: number) => boolean): string => {
    const start = at;
    while (at < source.length && !ENDS_BARE.has(source[at]!) && !stop?.(at)) at++;
    return source.slice(start, at);
  };
  const operatorAt = (i: number) => OPERATORS.find((op) => source.startsWith(op, i));

  while (at < source.length) {
    const from = at;
    const char = source[at]!;
    if (char === " " || char === "\t" || char === "\n") {
      at++;
      continue;
    }
    const sign = SIGNS[char];
    if (sign) {
      at++;
      out.push({ kind: sign, span: { from, to: at } });
      continue;
    }
    if (char === '"') {
      const text = quoted();
      out.push({ kind: "text", text, quoted: true, span: { from, to: at } });
      continue;
    }
    const word = bare((i) => i > from && operatorAt(i) !== undefined);
    const op = operatorAt(at);
    if (!op || at === from) {
      if (at === from) at++;
      out.push({ kind: "text", text: source.slice(from, at), quoted: false, span: { from, to: at } });
      continue;
    }
    at += op.length;
    const valueFrom = at;
    const value = source[at] === '"' ? quoted() : bare() || null;
    out.push({
      kind: "compare",
      field: word,
      op,
      value,
      span: { from, to: at },
      valueSpan: { from: valueFrom, to: at },
    });
  }
  return { tokens: out, issues };
}
