import { conditionsIn, writeEquals, writeText } from "../narrow";

/** What a rule may be made from. */
export interface Pattern {
  readonly from: string;
  readonly list: string;
  /** The person's own addresses it came to. */
  readonly via: readonly string[];
  readonly subject: string;
}

/** A condition that a message suggests, with what it is about in words. */
export interface Suggestion {
  readonly text: string;
  readonly narrow: string;
}

/** "Re: AW: [hut-notes] Week 12" without what comes before the words. */
const BEFORE = /^\s*(?:(?:[\p{L}]{1,4}(?:\[\d+\])?:|\[[^\]]*\])\s*)+/iu;
/** Numbers are other ones each time: "Invoice 2231" is about "Invoice". */
const NUMBER = /[\s(#№-]*\p{N}.*$/u;
const SHORTEST_SUBJECT = 4;

const domainOf = (address: string): string => address.slice(address.lastIndexOf("@") + 1);

/** What stays of a subject from one message to the next; empty where too little does. */
export function lastingSubject(subject: string): string {
  const words = subject.replace(BEFORE, "").replace(NUMBER, "").trim();
  return words.length < SHORTEST_SUBJECT ? "" : words;
}

/** Conditions that mean mail like this, the narrowest first. */
export function suggestionsFrom({ from, list, via, subject }: Pattern): Suggestion[] {
  const lasting = lastingSubject(subject);
  const domain = domainOf(from);
  return [
    ...(list === "" ? [] : [{ text: `the list ${list}`, narrow: writeEquals("list", list) }]),
    ...(from === "" ? [] : [{ text: `from ${from}`, narrow: writeEquals("from", from) }]),
    ...(from === "" || domain === from
      ? []
      : [{ text: `from anybody at ${domain}`, narrow: writeText("from", "~", `@${domain}`) }]),
    ...via.map((address) => ({ text: `to ${address}`, narrow: writeEquals("via", address) })),
    ...(lasting === "" ? [] : [{ text: `“${lasting}” in the subject`, narrow: writeText("subject", "~", lasting) }]),
  ];
}

/** A condition that no longer means mail from somebody: a condition of several ways is put in brackets first. */
export function exceptFrom(narrow: string, addresses: readonly string[]): string {
  const parts = conditionsIn(narrow);
  const inner = parts.length === 1 && narrow.includes("|") ? `(${narrow})` : narrow;
  const known = new Set(parts);
  const more = addresses.map((address) => `!${writeEquals("from", address)}`).filter((one) => !known.has(one));
  return more.length === 0 ? narrow : [inner, ...more].join(" ");
}

/** What of the inbox a condition means. @param inbox its path: it may be called anything */
export const ofInbox = (narrow: string, inbox: string): string =>
  narrow.trim() === "" ? writeEquals("folder", inbox) : `${writeEquals("folder", inbox)} & (${narrow})`;
