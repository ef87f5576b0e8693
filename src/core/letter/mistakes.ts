import { plural } from "../text";
import { isAddress, muchLike, type Correspondent } from "./address";
import { isBlank, textsOf, type Doc } from "./doc";
import type { LetterKind } from "./reply";

/** What is looked at before a letter goes. */
export interface Checked {
  readonly kind: LetterKind;
  readonly to: readonly Correspondent[];
  readonly cc: readonly Correspondent[];
  readonly bcc: readonly Correspondent[];
  readonly subject: string;
  readonly body: Doc;
  /** How many files go along with it. */
  readonly files: number;
  /** The list the answered message came from; "" for none. */
  readonly list: string;
}

export interface Acquainted {
  /** Whether the person has written to the address, or knows it otherwise. */
  readonly knows: (address: string) => boolean;
  readonly known: readonly string[];
  /** More people than this are asked about. */
  readonly mostPeople: number;
}

export type Field = "to" | "cc" | "bcc" | "subject" | "body";

/** What one key does about a mistake. */
export type Mending =
  | { readonly do: "go to"; readonly field: Field }
  | { readonly do: "replace"; readonly address: string; readonly by: string }
  | { readonly do: "drop"; readonly address: string }
  | { readonly do: "only sender" };

export interface Mistake {
  /** What stops a letter cannot be sent; what asks can, once it was read. */
  readonly severity: "stops" | "asks";
  readonly code:
    | "nobody"
    | "bad-address"
    | "no-subject"
    | "nothing-written"
    | "no-file"
    | "much-like"
    | "many"
    | "list"
    | "blanks"
    | "look";
  readonly text: string;
  readonly repair: { readonly text: string; readonly mending: Mending };
}

/** Words that announce a file. */
const ANNOUNCES = /\b(attach(?:ed|ment|ments|ing)?|enclosed|in the (?:attachment|appendix))\b/i;
/** A value of a template that nobody has filled in. */
const BLANK = /\{[\p{L}][^{}\n]{0,80}\}/u;

const goTo = (field: Field, text: string) => ({ text, mending: { do: "go to", field } as const });

/** Everything that may be wrong with a letter, what stops it first. */
export function mistakesIn(letter: Checked, { knows, known, mostPeople }: Acquainted): Mistake[] {
  const { to, cc, bcc, subject, body, files, kind, list } = letter;
  const everybody = [...to, ...cc, ...bcc];
  const stops: Mistake[] = [];
  const asks: Mistake[] = [];
  if (everybody.length === 0)
    stops.push({
      severity: "stops",
      code: "nobody",
      text: "It goes to nobody yet.",
      repair: goTo("to", "Say to whom"),
    });
  for (const { address } of everybody) {
    if (!isAddress(address))
      stops.push({
        severity: "stops",
        code: "bad-address",
        text: `“${address}” cannot be an address.`,
        repair: { text: `Take it out`, mending: { do: "drop", address } },
      });
    else if (!knows(address)) {
      const meant = muchLike(address, known);
      if (meant !== null)
        asks.push({
          severity: "asks",
          code: "much-like",
          text: `You have never written to ${address}, but to ${meant}.`,
          repair: { text: `Write to ${meant}`, mending: { do: "replace", address, by: meant } },
        });
    }
  }
  if (subject.trim() === "")
    asks.push({
      severity: "asks",
      code: "no-subject",
      text: "It has no subject.",
      repair: goTo("subject", "Give it one"),
    });
  const words = textsOf(body).join("\n");
  if (kind !== "forward" && isBlank(body) && files === 0)
    asks.push({
      severity: "asks",
      code: "nothing-written",
      text: "Nothing is written in it.",
      repair: goTo("body", "Write"),
    });
  if (files === 0 && (ANNOUNCES.test(words) || ANNOUNCES.test(subject)) && kind !== "forward")
    asks.push({
      severity: "asks",
      code: "no-file",
      text: "It speaks of an attachment, and has none.",
      repair: goTo("body", "Go back to the text"),
    });
  const blank = BLANK.exec(`${subject}\n${words}`)?.[0];
  if (blank !== undefined)
    asks.push({
      severity: "asks",
      code: "blanks",
      text: `${blank} is not filled in.`,
      repair: goTo(BLANK.test(subject) ? "subject" : "body", "Fill it in"),
    });
  if (everybody.length > mostPeople)
    asks.push({
      severity: "asks",
      code: "many",
      text: `It goes to ${plural(everybody.length, "person").replace("persons", "people")}.`,
      repair: goTo("to", "Look at them"),
    });
  if (kind === "reply all" && list !== "")
    asks.push({
      severity: "asks",
      code: "list",
      text: `It goes to everybody on the list ${list}.`,
      repair: { text: "Only to who wrote it", mending: { do: "only sender" } },
    });
  return [...stops, ...asks];
}
