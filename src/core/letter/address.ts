import { isStorable } from "../text";

/** Somebody a letter goes to, or comes from. */
export interface Correspondent {
  readonly name: string;
  readonly address: string;
}

/**
 * One address as it may stand in an envelope (RFC 5321, with RFC 6531 for letters outside ASCII): nothing in it ends
 * it, so it can be no second one and no header.
 */
const ADDRESS = /^[^\s<>()[\],;:@"\\\p{Cc}]{1,64}@[^\s<>()[\],;:@"\\\p{Cc}]{1,255}$/u;
const DOMAIN = /^(?!-)[\p{L}\p{N}-]{1,63}(?<!-)(?:\.(?!-)[\p{L}\p{N}-]{1,63}(?<!-))+$/u;

export function isAddress(text: string): boolean {
  if (!ADDRESS.test(text) || !isStorable(text)) return false;
  const [local = "", domain = ""] = text.split("@");
  return DOMAIN.test(domain) && !local.startsWith(".") && !local.endsWith(".") && !local.includes("..");
}

/** Whether only a server that takes SMTPUTF8 (RFC 6531) can deliver to it: the domain alone could be written in ASCII. */
export const needsUtf8 = (address: string): boolean => /[^\x20-\x7e]/.test(address.split("@")[0] ?? "");

export const domainOf = (address: string): string => (address.split("@").at(-1) ?? "").toLowerCase();

/** A name without what would end it in a header. */
const tidyName = (name: string): string =>
  name
    .replace(/[\p{Cc}\s]+/gu, " ")
    .trim()
    .replace(/^(["'])(.*)\1$/, "$2")
    .replace(/\\(["\\])/g, "$1")
    .trim()
    .slice(0, 200);

/** The parts between commas, semicolons and line ends that are in no quotes and no brackets. */
function parts(text: string): string[] {
  const out: string[] = [];
  let part = "";
  let quoted = false;
  let inside = false;
  let escaped = false;
  for (const char of text) {
    if (char === '"' && !escaped) quoted = !quoted;
    escaped = quoted && char === "\\" && !escaped;
    if (!quoted && char === "<") inside = true;
    if (!quoted && char === ">") inside = false;
    if (!quoted && !inside && /[,;\n]/.test(char)) {
      out.push(part);
      part = "";
    } else part += char;
  }
  return [...out, part].map((one) => one.trim()).filter(Boolean);
}

function readOne(part: string): Correspondent {
  const named = /^(.*)<\s*(?:mailto:)?([^<>]*)>\s*$/su.exec(part);
  if (named) return { name: tidyName(named[1]!), address: named[2]!.trim() };
  const plain = part.replace(/^mailto:/i, "");
  if (isAddress(plain)) return { name: "", address: plain };
  // "Ines Marlow ines@larch.example", as it comes out of tables.
  const last = /^(.*\S)\s+(\S+@\S+)$/su.exec(part);
  if (last && isAddress(last[2]!)) return { name: tidyName(last[1]!), address: last[2]! };
  return { name: "", address: part.replace(/[\p{Cc}\s]+/gu, " ").trim() };
}

/** Reads what was typed or pasted; what is no address comes back as it is, for the person to mend. */
export const readCorrespondents = (text: string): Correspondent[] => parts(text.slice(0, 200_000)).map(readOne);

/** As it stands in a text field: `Ines Marlow <ines@larch.example>`. */
export const writeCorrespondent = ({ name, address }: Correspondent): string => {
  if (name === "") return address;
  return /[",;<>@\\]/.test(name) ? `"${name.replace(/["\\]/g, "\\$&")}" <${address}>` : `${name} <${address}>`;
};

/** Everybody once, by address, in the order they stand. */
export function eachOnce(people: readonly Correspondent[], but: ReadonlySet<string> = new Set()): Correspondent[] {
  const seen = new Set(but);
  return people.filter(({ address }) => {
    const key = address.toLowerCase();
    return !seen.has(key) && seen.add(key);
  });
}

/** How many letters two texts differ by, up to 3. */
function distance(a: string, b: string): number {
  if (Math.abs(a.length - b.length) > 2) return 3;
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++)
      next.push(Math.min(row[j]! + 1, next[j - 1]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1)));
    row = next;
  }
  return Math.min(3, row[b.length]!);
}

/** A known address that one may have been meant to be: it differs by a letter or two. null where none does. */
export function muchLike(address: string, known: Iterable<string>): string | null {
  const wanted = address.toLowerCase();
  let best: { readonly address: string; readonly by: number } | null = null;
  for (const other of known) {
    const by = distance(wanted, other.toLowerCase());
    if (by === 0) return null;
    if (by < (best?.by ?? 3)) best = { address: other, by };
  }
  return best?.address ?? null;
}
