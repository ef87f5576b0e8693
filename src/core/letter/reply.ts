import { baseSubject } from "../thread";
import { eachOnce, type Correspondent } from "./address";

export const LETTER_KINDS = ["new", "reply", "reply all", "forward"] as const;
export type LetterKind = (typeof LETTER_KINDS)[number];

/** What a reply needs to know of the message it answers. */
export interface Original {
  readonly from: Correspondent;
  /** From Reply-To; empty where there is none. */
  readonly replyTo: readonly Correspondent[];
  readonly to: readonly Correspondent[];
  readonly cc: readonly Correspondent[];
  readonly subject: string;
  readonly messageId: string | null;
  readonly references: readonly string[];
}

export interface Addressed {
  readonly to: readonly Correspondent[];
  readonly cc: readonly Correspondent[];
}

/**
 * Whom an answer goes to (RFC 5322, 3.6.2 and 3.6.3): to where replies are asked for, else to who wrote it; to all
 * means everybody it went to as well, but for oneself. An answer to one's own message goes to whom that went to.
 * @param own the person's addresses, in lower case
 */
export function recipientsOf(kind: "reply" | "reply all", original: Original, own: ReadonlySet<string>): Addressed {
  const isOwn = own.has(original.from.address.toLowerCase());
  const back = original.replyTo.length > 0 ? original.replyTo : [original.from];
  const first = eachOnce(isOwn ? original.to : back).filter(({ address }) => address !== "");
  if (kind === "reply") return { to: first, cc: [] };
  const but = new Set([...own, ...first.map(({ address }) => address.toLowerCase())]);
  const others = eachOnce(isOwn ? original.cc : [...original.to, ...original.cc], but);
  return { to: first, cc: others.filter(({ address }) => address !== "") };
}

/** References name at most so many: the first, from which the thread comes, and the last. */
const MOST_REFERENCES = 30;

/** The threading headers of an answer (RFC 5322, 3.6.4). */
export function threadingOf({ messageId, references }: Pick<Original, "messageId" | "references">): {
  readonly inReplyTo: string | null;
  readonly references: readonly string[];
} {
  const all = [...references.filter((id) => id !== messageId), ...(messageId === null ? [] : [messageId])];
  const kept = all.length > MOST_REFERENCES ? [all[0]!, ...all.slice(1 - MOST_REFERENCES)] : all;
  return { inReplyTo: messageId, references: kept };
}

const MARKS: Record<Exclude<LetterKind, "new">, string> = { reply: "Re: ", "reply all": "Re: ", forward: "Fwd: " };

/** What a letter is about, after what it answers: one mark, however many there were. */
export function subjectOf(kind: LetterKind, original: string, prefix = "", suffix = ""): string {
  const subject = kind === "new" ? original : `${MARKS[kind]}${baseSubject(original).base}`;
  return `${prefix}${subject.trim()}${suffix}`.trim();
}

const person = ({ name, address }: Correspondent): string =>
  name === "" ? address : address === "" ? name : `${name} <${address}>`;

/** What stands before the quoted original. @param date as the person reads dates */
export function introOf(
  kind: LetterKind,
  original: Pick<Original, "from" | "to" | "cc" | "subject">,
  date: string,
): string {
  if (kind !== "forward") return `On ${date}, ${original.from.name || original.from.address || "somebody"} wrote:`;
  const line = (name: string, people: readonly Correspondent[]) =>
    people.length > 0 ? [`${name}: ${people.map(person).join(", ")}`] : [];
  return [
    "Forwarded message",
    `From: ${person(original.from)}`,
    `Date: ${date}`,
    `Subject: ${original.subject || "(no subject)"}`,
    ...line("To", original.to),
    ...line("Cc", original.cc),
  ].join("\n");
}
