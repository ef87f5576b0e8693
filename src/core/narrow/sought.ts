import { fold } from "./fold";
import { parse } from "./parse";
import type { Tree } from "./tree";

/** Fields whose texts are shown, so that what was found in them can be marked. */
const SHOWN = new Set(["from", "to", "cc", "anyone", "subject", "body", "text", "file"]);

/** What an expression looks for in texts, folded, without what it rules out. */
export function soughtIn(source: string): string[] {
  const parsed = parse(source);
  const visit = (tree: Tree): string[] => {
    if (tree.kind === "word") return [fold(tree.text)];
    if (tree.kind === "compare") return SHOWN.has(tree.field) ? [fold(tree.value)] : [];
    return tree.kind === "and" || tree.kind === "or" ? tree.parts.flatMap(visit) : [];
  };
  const found = parsed.ok ? visit(parsed.tree).map((text) => text.trim()) : [];
  return [...new Set(found)].filter((text) => text !== "");
}

export interface Piece {
  readonly text: string;
  readonly hit: boolean;
}

/** The words of a text with where they stand. */
function* wordsOf(text: string): Generator<{ readonly from: number; readonly to: number; readonly folded: string }> {
  for (const found of text.matchAll(/[\p{L}\p{N}\p{M}]+/gu))
    yield { from: found.index, to: found.index + found[0].length, folded: fold(found[0]).trim() };
}

/**
 * A text cut where it holds what is looked for: words in a row, the last of which need only begin so. Case and
 * accents do not count, as in the search itself.
 */
export function piecesOf(text: string, sought: readonly string[]): Piece[] {
  if (sought.length === 0) return [{ text, hit: false }];
  const words = [...wordsOf(text)];
  const out: Piece[] = [];
  let at = 0;
  for (let i = 0; i < words.length; i++) {
    let last = -1;
    for (const one of sought) {
      const parts = one.split(" ");
      const fits = parts.every((part, k) => {
        const word = words[i + k]?.folded;
        return word !== undefined && (k === parts.length - 1 ? word.startsWith(part) : word === part);
      });
      if (fits) last = Math.max(last, i + parts.length - 1);
    }
    if (last < 0) continue;
    const [from, to] = [words[i]!.from, words[last]!.to];
    if (from > at) out.push({ text: text.slice(at, from), hit: false });
    out.push({ text: text.slice(from, to), hit: true });
    at = to;
    i = last;
  }
  if (at < text.length) out.push({ text: text.slice(at), hit: false });
  return out;
}
