import { fold } from "@/core/narrow";

/**
 * The words of a message as a PostgreSQL tsvector, and a needle as a tsquery, both made here rather than by the
 * database's own parser: so what counts as a word is what core/narrow folds, in the browser as in SQL.
 *
 * PostgreSQL's limits: 2 kB a word, positions up to 16,383, of each word the first 256. A phrase far down a very
 * long message may be missed; single words are found wherever they are.
 */
const LONGEST_WORD = 100;
const LAST_POSITION = 16_383;
const MOST_POSITIONS = 256;
/** Words beyond this many are an attached file that came as text, not something anybody reads. */
const MOST_WORDS = 100_000;
/** Between two fields, so that no phrase runs from one into the next. */
const GAP = 3;

const wordsOf = (text: string): string[] => fold(text).split(" ").filter(Boolean);

/** @param headers texts that are found as words by themselves but not by body~ */
export function vectorOf(headers: readonly string[], body: string): string {
  const places = new Map<string, string[]>();
  let at = 1;
  const add = (words: readonly string[], weight: "A" | "") => {
    for (const word of words) {
      const key = word.slice(0, LONGEST_WORD);
      let list = places.get(key);
      if (!list) places.set(key, (list = []));
      if (list.length < MOST_POSITIONS) list.push(`${Math.min(at, LAST_POSITION)}${weight}`);
      at++;
    }
    at += GAP;
  };
  for (const text of headers) add(wordsOf(text), "A");
  add(wordsOf(body).slice(0, MOST_WORDS), "");
  return [...places].map(([word, list]) => `'${word}':${list.join()}`).join(" ");
}

/**
 * A folded needle as a query: its words in a row, the last one only begun where no space follows it.
 * @param body only in the message's own words
 */
export function queryOf(needle: string, body: boolean): string {
  const words = needle.split(" ").filter(Boolean);
  const begun = !needle.endsWith(" ");
  return words
    .map((word, i) => {
      const marks = `${begun && i === words.length - 1 ? "*" : ""}${body ? "D" : ""}`;
      return `'${word.slice(0, LONGEST_WORD)}'${marks ? `:${marks}` : ""}`;
    })
    .join(" <-> ");
}
