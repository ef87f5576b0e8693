/** Texts as they can be kept: PostgreSQL's hold no NUL and no half of a surrogate pair, and neither do its JSON values. */

/** Such characters become U+FFFD: for what comes in from outside and has to be taken as it is. */
export const storable = (text: string): string => text.toWellFormed().replaceAll("\0", "\ufffd");

export const isStorable = (text: string): boolean => text.isWellFormed() && !text.includes("\0");

/** What percent signs stand for in an address (RFC 3986); the text as it is where they stand for nothing. */
export function percentDecoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** The beginning of a text, cut between characters: never through the middle of a surrogate pair. @param most UTF-16 units */
export function cut(text: string, most: number): string {
  if (text.length <= most) return text;
  const end = /[\uD800-\uDBFF]/.test(text[most - 1] ?? "") ? most - 1 : most;
  return text.slice(0, end);
}

/** The first place in JSON that holds a text which cannot be kept, as "steps.0.text"; null where there is none. */
export function unstorableAt(json: unknown): string | null {
  const open: { readonly value: unknown; readonly path: string }[] = [{ value: json, path: "" }];
  for (let next = open.pop(); next; next = open.pop()) {
    const { value, path } = next;
    if (typeof value === "string" && !isStorable(value)) return path;
    if (typeof value !== "object" || value === null) continue;
    for (const [key, inner] of Object.entries(value)) {
      if (!isStorable(key)) return path;
      open.push({ value: inner, path: path === "" ? key : `${path}.${key}` });
    }
  }
  return null;
}

const figures = new Intl.NumberFormat("en");

/** "1 message", "12,000 messages" */
export const plural = (n: number, one: string): string => `${figures.format(n)} ${n === 1 ? one : `${one}s`}`;
export { ownWords, passedList, passedMessage, passedThread, type Passed } from "./passed-on";
