import type { Line } from "./card";

/** Content lines as RFC 6350, 3.2 and 3.3 has them, which vCard 3 shares. */

/** A line's length in octets, its end left out. */
const LONGEST = 75;

/** Joins what was folded: a line that begins with a blank goes on with the one before it. */
export const unfold = (text: string): string[] =>
  text
    .replace(/^\uFEFF/, "")
    .replace(/\r\n?/g, "\n")
    .replace(/\n[ \t]/g, "")
    .split("\n")
    .filter((line) => line.trim() !== "");

/** Breaks a line between characters, never through one: a program that unfolds octets and one that unfolds text agree. */
export function fold(line: string): string {
  let out = "";
  let room = LONGEST;
  for (const char of line) {
    const size = sizeOf(char);
    if (size > room) {
      out += "\r\n ";
      room = LONGEST - 1;
    }
    out += char;
    room -= size;
  }
  return out;
}

const sizeOf = (char: string): number => {
  const code = char.codePointAt(0)!;
  return code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
};

/** RFC 6868: what a parameter cannot hold otherwise. */
const PARAM = /\^(['n^])/g;
const PARAM_MEANS: Readonly<Record<string, string>> = { "'": '"', n: "\n", "^": "^" };

/** Where a line's value begins: behind the first colon that is in no quotes; -1 where there is none. */
function colonOf(line: string): number {
  let quoted = false;
  for (let i = 0; i < line.length; i++) {
    if (line[i] === '"') quoted = !quoted;
    if (line[i] === ":" && !quoted) return i;
  }
  return -1;
}

/** Text between separators that are in no quotes. */
function split(text: string, separator: string): string[] {
  const out = [""];
  let quoted = false;
  for (const char of text) {
    if (char === '"') quoted = !quoted;
    if (char === separator && !quoted) out.push("");
    else out[out.length - 1] += char;
  }
  return out;
}

const bare = (text: string): string =>
  text.replace(/^"(.*)"$/, "$1").replace(PARAM, (_, what: string) => PARAM_MEANS[what]!);

/** Reads an unfolded line; null where it is none. */
export function readLine(line: string): Line | null {
  const colon = colonOf(line);
  if (colon < 1) return null;
  const [head = "", ...rest] = split(line.slice(0, colon), ";");
  const params = new Map<string, string[]>();
  for (const one of rest) {
    const equals = one.indexOf("=");
    // "EMAIL;PREF:" is how the oldest cards put a type.
    const name = equals < 0 ? "TYPE" : one.slice(0, equals).toUpperCase();
    const values = split(one.slice(equals + 1), ",").map(bare);
    params.set(name, [...(params.get(name) ?? []), ...values]);
  }
  const name = head.slice(head.lastIndexOf(".") + 1).toUpperCase();
  return { name, params, value: line.slice(colon + 1) };
}

/** What backslashes hide in a value. */
export const unescape = (value: string): string =>
  value.replace(/\\(.)/gs, (_, char: string) => (char === "n" || char === "N" ? "\n" : char));

export const escape = (text: string): string =>
  text
    .replace(/\r\n?/g, "\n")
    .replace(/[\\,;]/g, "\\$&")
    .replace(/\n/g, "\\n");

/** A value's parts between separators that no backslash hides, still escaped. */
export function partsOf(value: string, separator: ";" | ","): string[] {
  const out = [""];
  for (const [token] of value.matchAll(/\\.|[^\\]|\\$/gs)) {
    if (token === separator) out.push("");
    else out[out.length - 1] += token;
  }
  return out;
}
