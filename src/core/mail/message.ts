import PostalMime, { type Address as PostalAddress, type Email, type Header } from "postal-mime";
import { failedChecks, falseLinks, oddFiles, type Clues } from "../deceit";
import { fold, TRAIT } from "../narrow";
import { cut, storable } from "../text";
import { readMailDate } from "./date";
import { textOfHtml } from "./html";

export interface Address {
  readonly name: string;
  /** As written, but for the domain in lower case; "" when there was none that could be read. */
  readonly address: string;
}

/** What was wrong with a message and how it was mended, as facts; the wording is in flawText. */
export type Flaw =
  | "empty"
  | "no-date"
  | "bad-date"
  | "no-sender"
  | "raw-8bit-header"
  | "huge-header"
  | "too-deep"
  | "unparsable"
  | "heavy"
  | "coming"
  | "no-message-id";

export const flawText = {
  empty: "The message is empty.",
  "no-date": "It has no date: the time it arrived, or that of the import, stands in.",
  "bad-date": "Its date cannot be read: the time it arrived, or that of the import, stands in.",
  "no-sender": "It does not say who sent it.",
  "raw-8bit-header": "Its headers hold letters outside ASCII without saying which charset: read as UTF-8 or Latin-1.",
  "huge-header": "Its headers are very long: only the beginning was read.",
  "too-deep": "Its parts are nested very deeply: the inner ones are left as source.",
  unparsable: "Its parts cannot be told apart: it is shown as plain text.",
  heavy: "Reading it whole would take too long: it came in with its headers and its source only.",
  coming: "Only its headers are here: its text is on the server still, and comes while the account is connected.",
  "no-message-id": "It has no Message-ID of its own.",
} as const satisfies Record<Flaw, string>;

/** What is kept of a message beside its source: everything a list, a search and a thread need. */
export interface Parsed {
  readonly from: Address;
  readonly to: readonly Address[];
  readonly cc: readonly Address[];
  /** Addresses it was delivered to, as relays note them. */
  readonly delivered: readonly string[];
  readonly subject: string;
  readonly date: Date;
  readonly messageId: string | null;
  /** Ids of earlier messages of the thread, oldest first, without the message's own. */
  readonly references: readonly string[];
  /** The list's id (RFC 2919) or name; "" for mail that came from no list. */
  readonly list: string;
  readonly preview: string;
  /** Bits of TRAIT. */
  readonly traits: number;
  readonly attachments: readonly string[];
  /** From Status and X-Status headers, which mailbox files use for it. */
  readonly read: boolean;
  readonly flagged: boolean;
  /** From X-Keywords. */
  readonly keywords: readonly string[];
  readonly flaws: readonly Flaw[];
  /** What may be meant to deceive; core/deceit says what it comes to. */
  readonly clues: Clues;
}

export interface ParseContext {
  /** Stands in for a date that is missing, and bounds dates that cannot be meant. */
  readonly now: Date;
}

const LONGEST_HEADER_BYTES = 256 * 1024;
const DEEPEST_NESTING = 60;
const LONGEST_TEXT = 2000;
const PREVIEW_LENGTH = 140;
const MOST_REFERENCES = 100;
const MOST_ADDRESSES = 500;

const tidy = (text: string, most: number): string => cut(storable(text.replace(/[\p{Cc}\s]+/gu, " ").trim()), most);

const addressOf = (raw: { name?: string; address?: string }): Address => {
  const address = tidy(raw.address ?? "", 320);
  const at = address.lastIndexOf("@");
  return {
    name: tidy(raw.name ?? "", 200),
    address: at < 0 ? address : address.slice(0, at) + address.slice(at).toLowerCase(),
  };
};

function addresses(list: readonly PostalAddress[] | undefined): Address[] {
  const out: Address[] = [];
  for (const entry of list ?? []) {
    if (out.length >= MOST_ADDRESSES) break;
    if (entry.group) out.push(...entry.group.slice(0, MOST_ADDRESSES).map(addressOf));
    else out.push(addressOf(entry));
  }
  return out;
}

/** Message ids in a header, in order. Linear: "<", then anything without space or brackets, then ">". */
const idsIn = (text: string): string[] => storable(text.slice(0, 50_000)).match(/<[^<>\s\p{Cc}]{1,500}>/gu) ?? [];

/**
 * The first words a person wrote: no quoted lines, no line that only introduces a quote, and no heading that
 * repeats the subject, which stands beside it.
 */
function previewOf(text: string, subject: string): string {
  const lines = text.slice(0, 20_000).split("\n");
  const own = lines.filter((line) => !/^\s*>/.test(line) && !/(wrote|schrieb|écrit)\s*:\s*$/.test(line));
  const words = tidy(own.join(" "), PREVIEW_LENGTH + subject.length);
  const repeats = subject !== "" && words.startsWith(`${subject} `);
  return tidy(repeats ? words.slice(subject.length) : words, PREVIEW_LENGTH);
}

/** Where the header section ends, and whether it holds bytes outside ASCII. */
function scanHeader(raw: Uint8Array): { end: number; eightBit: boolean } {
  let eightBit = false;
  for (let i = 0; i < raw.length; i++) {
    const byte = raw[i]!;
    if (byte > 127) eightBit = true;
    if (byte !== 10) continue;
    const next = raw[i + 1] === 13 ? i + 2 : i + 1;
    if (raw[next] === 10) return { end: next + 1, eightBit };
  }
  return { end: raw.length, eightBit };
}

/** A header section that is too long is cut at a line end, so that the body still follows it. */
function withShortHeader(raw: Uint8Array, end: number): Uint8Array {
  let cut = LONGEST_HEADER_BYTES;
  while (cut > 0 && raw[cut - 1] !== 10) cut--;
  const body = raw.subarray(end);
  const out = new Uint8Array(cut + 1 + body.length);
  out.set(raw.subarray(0, cut));
  out[cut] = 10;
  out.set(body, cut + 1);
  return out;
}

/**
 * 8-bit headers without a charset: UTF-8 where the bytes are valid UTF-8, else Latin-1, as UTF-8. The parser
 * reads headers as UTF-8, so only the second case needs a copy.
 */
function withReadableHeader(raw: Uint8Array, end: number): Uint8Array {
  const head = raw.subarray(0, end);
  try {
    new TextDecoder("utf-8", { fatal: true }).decode(head);
    return raw;
  } catch {
    const latin = new TextEncoder().encode(new TextDecoder("windows-1252").decode(head));
    const out = new Uint8Array(latin.length + raw.length - end);
    out.set(latin);
    out.set(raw.subarray(end), latin.length);
    return out;
  }
}

const headerOf = (headers: readonly Header[], key: string): string | undefined =>
  headers.find((h) => h.key === key)?.value;

/** A message taken apart, with what had to be mended. */
export interface Parts {
  readonly email: Email;
  readonly flaws: Flaw[];
}

/** The whole message with its parts. Limits guard against nesting bombs; what cannot be parsed is plain text. */
export async function readParts(raw: Uint8Array): Promise<Parts> {
  const flaws: Flaw[] = [];
  const { end, eightBit } = scanHeader(raw);
  let readable = raw;
  if (end > LONGEST_HEADER_BYTES) {
    flaws.push("huge-header");
    readable = withShortHeader(raw, end);
  } else if (eightBit) {
    flaws.push("raw-8bit-header");
    readable = withReadableHeader(raw, end);
  }
  const headLimit = { maxHeadersSize: LONGEST_HEADER_BYTES * 4 };
  try {
    return { email: await PostalMime.parse(readable, { ...headLimit, maxNestingDepth: DEEPEST_NESTING }), flaws };
  } catch (error) {
    const tooDeep = error instanceof Error && /nesting/i.test(error.message);
    flaws.push(tooDeep ? "too-deep" : "unparsable");
  }
  // Only the headers, with the rest as the text it is.
  const head = readable.subarray(0, Math.min(scanHeader(readable).end, readable.length));
  return { email: { ...(await headOf(head)), text: new TextDecoder().decode(readable.subarray(head.length)) }, flaws };
}

/** What the headers say by themselves, whatever kind of body they announce. */
async function headOf(head: Uint8Array): Promise<Email> {
  try {
    const plain = new TextDecoder("latin1").decode(head).replace(/^content-type:.*(\r?\n[ \t].*)*\r?\n/gim, "");
    const email = await PostalMime.parse(plain, { maxHeadersSize: LONGEST_HEADER_BYTES * 4 });
    return { ...email, attachments: [] };
  } catch {
    return { headers: [], headerLines: [], attachments: [] };
  }
}

/** Whether a message is one of those whose parts are never read. */
export const isHeavy = (flaws: readonly string[]): boolean => flaws.includes("heavy" satisfies Flaw);

/** Whether only the headers of a message are here, and the rest is on the server still. */
export const isComing = (flaws: readonly string[]): boolean => flaws.includes("coming" satisfies Flaw);

/** A message that would take too long to read whole: its headers alone, which cost next to nothing. */
export async function readHead(raw: Uint8Array): Promise<Parts> {
  const { end } = scanHeader(raw.subarray(0, LONGEST_HEADER_BYTES));
  return { email: await headOf(raw.subarray(0, end)), flaws: ["heavy"] };
}

/** What a message holds that may be meant to deceive. */
export function cluesOf(email: Email): Clues {
  const said = email.headers.filter(({ key }) => key === "authentication-results").map(({ value }) => value);
  return {
    links: falseLinks(email.html ?? ""),
    replyTo: addresses(email.replyTo).flatMap(({ address }) => (address.includes("@") ? [address] : [])),
    failed: failedChecks(said),
    files: oddFiles(email.attachments.map(({ filename }) => tidy(filename ?? "", 200))),
  };
}

const isInvite = (mimeType: string): boolean => mimeType === "text/calendar" || mimeType === "application/ics";

function traitsOf(email: Email, list: string): number {
  const { headers, attachments } = email;
  const auto = headerOf(headers, "auto-submitted");
  const type = headerOf(headers, "content-type") ?? "";
  const status = `${headerOf(headers, "status") ?? ""}${headerOf(headers, "x-status") ?? ""}`;
  let traits = 0;
  if (attachments.some((part) => part.disposition !== "inline" || !part.related)) traits |= TRAIT.attachment;
  if (attachments.some((part) => isInvite(part.mimeType))) traits |= TRAIT.invite;
  if (list !== "" || headerOf(headers, "list-unsubscribe") !== undefined) traits |= TRAIT.listmail;
  if (auto !== undefined && !/^no\b/i.test(auto)) traits |= TRAIT.automatic;
  if (/^multipart\/report/i.test(type) && /delivery-status/i.test(type)) traits |= TRAIT.bounce;
  if (status.includes("A")) traits |= TRAIT.answered;
  return traits;
}

function dateOf(email: Email, now: Date, flaws: Flaw[]): Date {
  const written = headerOf(email.headers, "date");
  const date = written === undefined ? null : readMailDate(written, now);
  if (date) return date;
  flaws.push(written === undefined ? "no-date" : "bad-date");
  // The last Received header is the first hop; the time stands behind its last ";".
  const received = email.headers.find((h) => h.key === "received")?.value ?? "";
  return readMailDate(received.slice(received.lastIndexOf(";") + 1), now) ?? now;
}

/** Relays that pass a message on note whom it was for. */
const DELIVERED = ["delivered-to", "x-original-to", "envelope-to"];

/**
 * Header fields that say all that is read from the headers of a message on a server. What relays write beside them
 * (hops, seals, signatures) is several times as long, and nobody waits for it.
 */
export const HEAD_FIELDS: readonly string[] = [
  ...["date", "from", "sender", "reply-to", "to", "cc", "subject", "message-id", "references", "in-reply-to"],
  ...["list-id", "list-unsubscribe", "list-unsubscribe-post", "auto-submitted", "authentication-results"],
  ...DELIVERED,
];

const deliveredTo = (headers: readonly Header[]): string[] => [
  ...new Set(
    headers
      .filter((header) => DELIVERED.includes(header.key))
      .slice(0, 20)
      .map((header) => tidy(header.value.replace(/[<>]/g, ""), 320).toLowerCase()),
  ),
];

/** Reads one message. Never throws for what a message holds: flaws say what was mended. */
export const parseMessage = async (raw: Uint8Array, context: ParseContext): Promise<Parsed> =>
  (await parseWithText(raw, context)).parsed;

/** The same from the headers alone. */
export const parseHead = async (raw: Uint8Array, { now }: ParseContext): Promise<Parsed> =>
  parsedFrom(raw, await readHead(raw), now).parsed;

/** The same, with all of the message's words. */
export const parseWithText = async (
  raw: Uint8Array,
  { now }: ParseContext,
): Promise<{ parsed: Parsed; text: string }> => parsedFrom(raw, await readParts(raw), now);

function parsedFrom(
  raw: Uint8Array,
  { email, flaws }: { email: Email; flaws: Flaw[] },
  now: Date,
): { parsed: Parsed; text: string } {
  const { headers } = email;
  if (raw.length === 0 || Buffer.from(raw.subarray(0, 4096)).toString("latin1").trim() === "") flaws.push("empty");
  const date = dateOf(email, now, flaws);
  const from = addresses(email.from ? [email.from] : email.sender ? [email.sender] : [])[0] ?? {
    name: "",
    address: "",
  };
  if (from.address === "") flaws.push("no-sender");
  const messageId = idsIn(headerOf(headers, "message-id") ?? "")[0] ?? null;
  if (messageId === null) flaws.push("no-message-id");
  const earlier = [...idsIn(headerOf(headers, "references") ?? ""), ...idsIn(headerOf(headers, "in-reply-to") ?? "")];
  const listId = headerOf(headers, "list-id") ?? "";
  const list = tidy(/<([^<>]{1,200})>/.exec(listId)?.[1] ?? listId, 200);
  const status = `${headerOf(headers, "status") ?? ""}${headerOf(headers, "x-status") ?? ""}`;
  const text = email.text?.trim() ? email.text : textOfHtml(email.html ?? "");
  const subject = tidy(email.subject ?? "", LONGEST_TEXT);
  const parsed: Parsed = {
    from,
    delivered: deliveredTo(headers),
    to: addresses(email.to),
    cc: addresses(email.cc),
    subject,
    date,
    messageId,
    references: [...new Set(earlier)].filter((id) => id !== messageId).slice(-MOST_REFERENCES),
    list,
    preview: previewOf(text, subject),
    traits: traitsOf(email, list),
    attachments: email.attachments
      .filter((part) => part.disposition !== "inline" || !part.related)
      .map((part) => tidy(part.filename ?? part.mimeType, 200)),
    read: status.includes("R"),
    flagged: status.includes("F"),
    keywords: tidy(headerOf(headers, "x-keywords") ?? "", 1000)
      .split(",")
      .map((word) => word.trim())
      .filter(Boolean),
    flaws: [...new Set(flaws)],
    clues: cluesOf(email),
  };
  return { parsed, text };
}

/** The person's own addresses that a message came to. @param own in lower case */
export const viaOf = ({ to, cc, delivered }: Parsed, own: ReadonlySet<string>): string[] => [
  ...new Set([...delivered, ...[...to, ...cc].map((person) => person.address.toLowerCase())].filter((a) => own.has(a))),
];

export type Keys = Record<"from" | "to" | "cc" | "subject" | "list" | "file", string>;

/** The folded texts a narrowing searches, made once, on import. */
export function keysOf(parsed: Parsed): Keys {
  const people = (list: readonly Address[]) =>
    fold(
      list
        .map((p) => `${p.name} ${p.address}`)
        .join(" ")
        .slice(0, 4000),
    );
  return {
    from: people([parsed.from]),
    to: people([...parsed.to, ...parsed.cc]),
    cc: people(parsed.cc),
    subject: fold(parsed.subject),
    list: fold(parsed.list),
    file: fold(parsed.attachments.join(" ").slice(0, 4000)),
  };
}

/** The words of a message: its text, or what its HTML says. */
export const textOf = ({ text, html }: Pick<Email, "text" | "html">): string =>
  text?.trim() ? text : textOfHtml(html ?? "");
