/**
 * How our words are said in patterns, and read back. Here a word begins behind anything that is no letter and no digit;
 * Sieve knows texts and "*" alone, so that each sign a word may stand behind is a pattern of its own.
 */

const PRINTED = Array.from({ length: 95 }, (_, i) => String.fromCharCode(32 + i));
const SIGNS = [...PRINTED.filter((char) => !/[a-z0-9]/i.test(char)), "\t"];
const SIGNS_OF_TEXTS = [...SIGNS, "\n"];

/** What can be said without loss: one word of plain letters and digits. */
export const isPlainWord = (text: string): boolean => /^[a-z0-9]+$/i.test(text);

/** A text as it stands in a pattern. */
export const escaped = (text: string): string => text.replace(/[\\*?]/g, "\\$&");

/** Patterns for texts in which a word begins so. @param lines whether they may have several lines */
export const beginning = (text: string, lines = false): string[] => [
  `${escaped(text)}*`,
  ...(lines ? SIGNS_OF_TEXTS : SIGNS).map((sign) => `*${escaped(sign)}${escaped(text)}*`),
];

/** The text whose patterns these are; null where they are others. */
export function begunBy(patterns: readonly string[]): string | null {
  const text = patterns[0]?.slice(0, -1).replace(/\\(.)/g, "$1") ?? "";
  const isMeant = [true, false].some((lines) => beginning(text, lines).join("\0") === patterns.join("\0"));
  return isMeant ? text : null;
}
