import type { FolderId } from "../id";

/** What of a message tells where it belongs. */

/** A message as filing sees it; texts in any case. */
export interface FilingMail {
  readonly from: string;
  /** Everybody else it is to. */
  readonly to: readonly string[];
  /** The person's own addresses it came to. */
  readonly via: readonly string[];
  readonly list: string;
  readonly subject: string;
  /** Some of its words, in any order. */
  readonly words: readonly string[];
  /** Names of what is attached. */
  readonly files: readonly string[];
  /** Where earlier messages of its thread have been filed, each once. */
  readonly thread: readonly FolderId[];
  /** When it came, milliseconds since 1970. */
  readonly dateMs: number;
}

/** Kinds of evidence. What is learned of one kind is weighed by one weight. */
export const KINDS = [
  "thread",
  "list",
  "sender",
  "domain",
  "with",
  "via",
  "subject",
  "word",
  "file",
  "figure",
  "time",
] as const;
export type Kind = (typeof KINDS)[number];

export interface Feature {
  readonly kind: Kind;
  /** "sender ines@larch.example" */
  readonly key: string;
}

/** Of texts, so many different words count. */
const MOST_WORDS = { subject: 12, word: 60 } as const;
const MOST_PEOPLE = 6;
const SHORTEST_WORD = 3;
const LONGEST_WORD = 30;

const WORD = /[\p{L}\p{N}]+/gu;

/** Words as they are compared: without case and accents; numbers are what they are near. */
export const wordsIn = (text: string): string[] =>
  [...text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase().matchAll(WORD)]
    .map(([word]) => word)
    .filter((word) => word.length >= SHORTEST_WORD && word.length <= LONGEST_WORD && !/^\d+$/.test(word));

const AMOUNT = /(?:\b(?:chf|eur|usd|gbp)\s?|[€$£]\s?)\d|\d[.,]\d\d\b(?!\.)/i;
const DAY = /\b\d{1,2}\s?(?:\.\s?\d{1,2}\.|(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec))|\b\d{4}-\d\d-\d\d\b/i;

export const domainOf = (address: string): string => address.slice(address.lastIndexOf("@") + 1).toLowerCase();

/** Weekend or not, and which third of the day in UTC: habits of those who write. */
function timeOf(dateMs: number): string {
  const date = new Date(dateMs);
  return `${[0, 6].includes(date.getUTCDay()) ? "weekend" : "week"}${Math.floor(date.getUTCHours() / 8)}`;
}

/** Everything about a message that is counted; each once. */
export function featuresOf(mail: FilingMail): Feature[] {
  const from = mail.from.toLowerCase();
  const of = (kind: Kind, values: Iterable<string>): Feature[] =>
    [...new Set(values)].filter(Boolean).map((value) => ({ kind, key: `${kind} ${value}` }));
  const endings = mail.files.flatMap((file) => /\.([a-z0-9]{1,6})$/i.exec(file)?.[1]?.toLowerCase() ?? []);
  const figures = [AMOUNT.test(mail.subject) ? "amount" : "", DAY.test(mail.subject) ? "day" : ""];
  return [
    ...of("thread", mail.thread.map(String)),
    ...of("list", [mail.list.toLowerCase()]),
    ...of("sender", [from]),
    ...of("domain", from === "" ? [] : [domainOf(from)]),
    ...of("with", mail.to.map((address) => address.toLowerCase()).slice(0, MOST_PEOPLE)),
    ...of(
      "via",
      mail.via.map((address) => address.toLowerCase()),
    ),
    ...of("subject", [...new Set(wordsIn(mail.subject))].slice(0, MOST_WORDS.subject)),
    ...of("word", [...new Set(mail.words.flatMap(wordsIn))].slice(0, MOST_WORDS.word)),
    ...of("file", endings),
    ...of("figure", figures),
    ...of("time", [timeOf(mail.dateMs)]),
  ];
}
