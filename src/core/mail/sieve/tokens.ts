import type { Problem, Span } from "./script";

/** Section 8.1 of RFC 5228. */
export type Token =
  | { readonly kind: "word" | "tag" | "text" | "comment"; readonly text: string; readonly span: Span }
  | { readonly kind: "number"; readonly value: number; readonly span: Span }
  | { readonly kind: "sign"; readonly text: string; readonly span: Span };

const UNITS: Record<string, number> = { "": 1, k: 1024, m: 1024 ** 2, g: 1024 ** 3 };
export const LARGEST_NUMBER = 2 ** 53 - 1;

const WORD = /[a-z_][a-z0-9_]*/iy;
const NUMBER = /(\d+)([kmg]?)(?![a-z0-9_])/iy;
const BLANK = /[ \t\r\n]+/y;
/** A text of several lines begins so; what stands behind it in its line is a comment. */
const LINES = /text:[ \t]*(?:#[^\n]*)?\r?\n/iy;

/** Splits a script. One pass, linear in its length; what is wrong is said and passed over. */
export function tokens(source: string): { tokens: Token[]; problems: Problem[] } {
  const out: Token[] = [];
  const problems: Problem[] = [];
  let at = 0;
  const next = (pattern: RegExp): RegExpExecArray | null => {
    pattern.lastIndex = at;
    const found = pattern.exec(source);
    if (found) at = pattern.lastIndex;
    return found;
  };

  /** After the first quote. A backslash takes what stands behind it as it is. */
  const quoted = (from: number): string => {
    let text = "";
    for (let begun = at; ;) {
      const char = source[at];
      if (char === undefined) {
        problems.push({ code: "unclosed-quote", span: { from, to: at } });
        return text + source.slice(begun, at);
      }
      if (char === '"') return text + source.slice(begun, at++);
      if (char === "\\") {
        text += source.slice(begun, at);
        begun = ++at;
        if (at === source.length) continue;
      }
      at++;
    }
  };
  /** Up to a line with a dot alone; a line that begins with one has another before it. */
  const lines = (from: number): string => {
    const kept: string[] = [];
    while (at < source.length) {
      const end = source.indexOf("\n", at);
      const line = source.slice(at, end < 0 ? source.length : end).replace(/\r$/, "");
      at = end < 0 ? source.length : end + 1;
      if (line === ".") return kept.map((one) => `${one}\n`).join("");
      kept.push(line.startsWith("..") ? line.slice(1) : line);
    }
    problems.push({ code: "unclosed-text", span: { from, to: at } });
    return kept.join("\n");
  };

  while (at < source.length) {
    if (next(BLANK)) continue;
    const from = at;
    const put = (kind: "word" | "tag" | "text" | "comment", text: string) =>
      void out.push({ kind, text, span: { from, to: at } });
    const char = source[at]!;
    if (char === "#") {
      const end = source.indexOf("\n", at);
      at = end < 0 ? source.length : end;
      put("comment", source.slice(from + 1, at));
    } else if (source.startsWith("/*", at)) {
      const end = source.indexOf("*/", at + 2);
      if (end < 0) problems.push({ code: "unclosed-comment", span: { from, to: from + 2 } });
      at = end < 0 ? source.length : end + 2;
      put("comment", source.slice(from + 2, end < 0 ? at : end));
    } else if (char === '"') {
      at++;
      put("text", quoted(from));
    } else if (next(LINES)) put("text", lines(from));
    else if (char === ":") {
      at++;
      const word = next(WORD);
      if (word) put("tag", word[0].toLowerCase());
      else problems.push({ code: "stray", span: { from, to: at }, text: char });
    } else if ("()[]{},;".includes(char)) {
      at++;
      out.push({ kind: "sign", text: char, span: { from, to: at } });
    } else {
      const number = next(NUMBER);
      const word = number ? null : next(WORD);
      if (number) {
        const value = Number(number[1]) * UNITS[number[2]!.toLowerCase()]!;
        const span = { from, to: at };
        if (value > LARGEST_NUMBER) problems.push({ code: "too-large", span, most: LARGEST_NUMBER });
        out.push({ kind: "number", value: Math.min(value, LARGEST_NUMBER), span });
      } else if (word) put("word", word[0].toLowerCase());
      else {
        at++;
        // A character of two units stays in one piece.
        if (/^[\ud800-\udbff]$/.test(char) && /^[\udc00-\udfff]$/.test(source[at] ?? "")) at++;
        problems.push({ code: "stray", span: { from, to: at }, text: source.slice(from, at) });
      }
    }
  }
  return { tokens: out, problems };
}
