import { plural } from "../text";
import type { Kind } from "./features";
import { kindOf, type Reason } from "./ranker";
import type { Sign } from "./counts";

/** Reasons as a person reads them. */

/** Shares are told in whole percent: what is nearly certain is not said to be certain. */
export const percentOf = (confidence: number): number => Math.max(0, Math.min(99, Math.round(confidence * 100)));

const times = (n: number): string => (n === 1 ? "once" : `${n} times`);

const TEXTS: Record<Kind, (value: string, n: number) => string> = {
  thread: () => "it belongs to a thread that is filed there",
  list: (value, n) => `${plural(n, "message")} of the list ${value} ${n === 1 ? "is" : "are"} there`,
  sender: (_, n) => `${plural(n, "message")} from this sender ${n === 1 ? "is" : "are"} there`,
  domain: (value, n) => `${plural(n, "message")} from ${value} ${n === 1 ? "is" : "are"} there`,
  with: (value, n) => `also to ${value}, filed there ${times(n)}`,
  via: (value, n) => `it came to ${value}, filed there ${times(n)}`,
  subject: (value, n) => `“${value}” in its subject, filed there ${times(n)}`,
  word: (value, n) => `“${value}” in its text, filed there ${times(n)}`,
  file: (value, n) => `a file .${value}, filed there ${times(n)}`,
  figure: (value, n) => `${value === "amount" ? "an amount" : "a date"} in its subject, filed there ${times(n)}`,
  time: (_, n) => `written at this time of the week, filed there ${times(n)}`,
};

/** A key without its kind: "ines@larch.example" */
const valueOf = (key: string): string => key.slice(key.indexOf(" ") + 1);

/** "14 messages from this sender are there" */
export const whyText = ({ kind, key, times: n }: Reason): string => TEXTS[kind](valueOf(key), n);

/** What spoke for junk, in the same words: "14 messages from this sender are there" is said of junk. */
export const whyJunk = (reason: Reason): string =>
  whyText(reason)
    .replace(/ (?:is|are) there$/, (verb) => verb.replace("there", "junk"))
    .replace("filed there", "in junk");

const SIGNS: Partial<Record<string, (value: string) => string>> = {
  list: (value) => `the list ${value}`,
  sender: (value) => `from ${value}`,
  domain: (value) => `from anybody at ${value}`,
  via: (value) => `to ${value}`,
  subject: (value) => `“${value}” in the subject`,
  word: (value) => `“${value}” in the text`,
  file: (value) => `a file .${value}`,
};

/** What is often found in a folder: "from ines@larch.example" */
export const signText = ({ key }: Sign): string => SIGNS[kindOf(key)]?.(valueOf(key)) ?? key;
