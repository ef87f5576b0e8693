import { RE2JS } from "re2js";
import type { MessageId } from "../id";
import { baseSubject } from "../thread";
import type { Draft, Facts } from "./facts";
import { amountInText, dateInText, firstNameOf, LONGEST_TEXT } from "./found";
import type { Question, SkipCode } from "./problem";
import { isCaptured, isTaken, type Computed, type Taken } from "./value";

/** A macro on its way through one message. */
export interface Running {
  readonly message: MessageId;
  readonly draft: Draft;
  /** Not there for macros that look at nothing but the state. */
  readonly facts: Facts | undefined;
}

/** Why a value is not to be had for a message: what has to be asked, what only the server knows, or never. */
export type Fail =
  | { readonly fail: "ask"; readonly question: Question }
  | { readonly fail: "unknown" }
  | { readonly fail: "skip"; readonly reason: SkipCode };

export type Get<T> = (run: Running) => { readonly value: T } | Fail;

export const skip = (reason: SkipCode): Fail => ({ fail: "skip", reason });
const NO_VALUE = skip("no-value");
export const UNKNOWN: Fail = { fail: "unknown" };

/** @throws RangeError when a macro needs facts and its caller gave none. */
export function factsOf(run: Running): Facts {
  if (!run.facts) throw new RangeError("the macro looks at the messages themselves; give their facts");
  return run.facts;
}

const TAKE: Record<Taken, (facts: Facts) => string | null | undefined> = {
  "first name": (f) => firstNameOf(f.fromName),
  "sender name": (f) => f.fromName || null,
  address: (f) => f.fromAddress || null,
  domain: (f) => f.fromAddress.split("@")[1] || null,
  subject: (f) => baseSubject(f.subject).base || null,
  list: (f) => f.list || null,
  "date in text": (f) => (f.body === null ? undefined : dateInText(`${f.subject}\n${f.body}`, f.dateMs)),
  "amount in text": (f) => (f.body === null ? undefined : amountInText(`${f.subject}\n${f.body}`)),
};

/** Whether the value needs the words of the message, which only the server has. */
export const needsBody = (value: Computed): boolean =>
  isCaptured(value) ? value.in === "text" : value.take === "date in text" || value.take === "amount in text";

/** A pattern in RE2's syntax, matched in linear time whatever it is. @throws an Error that says what is wrong */
export const readPattern = (pattern: string): RE2JS => RE2JS.compile(pattern, RE2JS.CASE_INSENSITIVE);

function capture(pattern: RE2JS, group: string | undefined, text: string): string | null {
  const matcher = pattern.matcher(text.slice(0, LONGEST_TEXT));
  if (!matcher.find()) return null;
  const found = group === undefined ? matcher.group() : matcher.group(group);
  return found?.trim() || null;
}

/** What a computed value is for each message, as text. */
export function getComputed(value: Computed): Get<string> {
  const otherwise = value.else;
  const done = (found: string | null | undefined): ReturnType<Get<string>> => {
    if (found === undefined) return UNKNOWN;
    const text = found ?? otherwise;
    return text === undefined ? NO_VALUE : { value: text };
  };
  if (isTaken(value)) return (run) => done(TAKE[value.take](factsOf(run)));
  const pattern = readPattern(value.pattern);
  const field = (facts: Facts): string | null => {
    if (value.in === "subject") return facts.subject;
    return value.in === "text" ? facts.body : `${facts.fromName} <${facts.fromAddress}>`;
  };
  return (run) => {
    const text = field(factsOf(run));
    return done(text === null ? undefined : capture(pattern, value.group, text));
  };
}
