import { createHash, randomUUID } from "node:crypto";
import { STATE_BIT } from "@/core/columns";
import type { MessageId, PersonId } from "@/core/id";
import {
  docOfText,
  domainOf,
  EMPTY_DOC,
  introOf,
  recipientsOf,
  subjectOf,
  threadingOf,
  type Block,
  type Correspondent,
  type Doc,
  type LetterKind,
} from "@/core/letter";
import { isComing, keysOf, parseWithText } from "@/core/mail";
import type { Queryable, Transaction } from "../db";
import { rewriteWords, vectorOf } from "../search";
import { insertMessages, ownAddresses, replaceSource, reserve, type NewMessage } from "../store";
import { identityFor, readIdentities, type Identity } from "./identities";
import { writeLetter, type LetterFile } from "./mime";
import { filesOf, readOriginals, type Answered } from "./originals";
import { quoteOf, type Quote } from "./quote";
import { insertDraft, insertFiles, readDraft, readFiles, type DraftRow } from "./rows";

/** A letter that is to be begun. What is left out follows from what it answers. */
export interface NewLetter {
  readonly kind: LetterKind;
  readonly answers: MessageId | null;
  readonly to?: readonly Correspondent[] | undefined;
  readonly cc?: readonly Correspondent[] | undefined;
  readonly bcc?: readonly Correspondent[] | undefined;
  readonly subject?: string | undefined;
  readonly body?: Doc | undefined;
  readonly prefix?: string | undefined;
  readonly suffix?: string | undefined;
  readonly sendAt?: string | null | undefined;
  /** The folder its sent copy goes to; null for Sent. */
  readonly sent?: number | null | undefined;
  readonly sentToo?: boolean | undefined;
  /** The person's own addresses it may be from; else those to which what it answers came. */
  readonly via?: readonly string[] | undefined;
  /** What goes along, beside what it forwards. */
  readonly files?: readonly Omit<LetterFile, "id" | "cid">[] | undefined;
}

/** Whose letters they are, and how they read dates. */
export interface Writer {
  readonly person: PersonId;
  /** IANA name. */
  readonly zone: string;
}

const longDate = (date: Date, zone: string): string =>
  date.toLocaleString("en-GB", {
    timeZone: zone,
    weekday: "short",
    day: "numeric",
    month: "short",
    year: "numeric",
    hour: "2-digit",
    minute: "2-digit",
  });

const signatureOf = ({ signature }: Identity): readonly Block[] =>
  signature.trim() === "" ? [] : docOfText(`\n-- \n${signature.trimEnd()}`).content;

function bodyOf(
  letter: NewLetter,
  original: Answered | null,
  quote: Quote | null,
  sender: Identity,
  zone: string,
): Doc {
  const own = letter.body ?? EMPTY_DOC;
  const below: Block[] = [];
  if (original && quote) {
    const intro = introOf(letter.kind, original, longDate(original.date, zone));
    const { text, html } = quote;
    below.push({ type: "paragraph" }, { type: "quoted", attrs: { intro, text, html, message: original.id } });
  }
  return { type: "doc", content: [...own.content, ...signatureOf(sender), ...below] };
}

type Begun = Omit<DraftRow, "message" | "version">;

function draftOf(
  letter: NewLetter,
  original: Answered | null,
  quote: Quote | null,
  { identities, own, zone }: Writing,
): Begun {
  const sender = identityFor(identities, letter.via ?? original?.via ?? []);
  const { kind, prefix, suffix } = letter;
  const answer =
    original && (kind === "reply" || kind === "reply all") ? recipientsOf(kind, original, own) : { to: [], cc: [] };
  const given = letter.subject?.trim() ? letter.subject : null;
  const threading = original && kind !== "forward" ? threadingOf(original) : { inReplyTo: null, references: [] };
  return {
    kind,
    answers: letter.answers,
    sender: { name: sender.name, address: sender.address },
    to: letter.to ?? answer.to,
    cc: letter.cc ?? answer.cc,
    bcc: letter.bcc ?? [],
    subject: given ? subjectOf("new", given, prefix, suffix) : subjectOf(kind, original?.subject ?? "", prefix, suffix),
    body: bodyOf(letter, original, quote, sender, zone),
    plain: false,
    messageId: `<${randomUUID()}@${domainOf(sender.address) || "localhost"}>`,
    ...threading,
    list: original?.list ?? "",
    sendAt: letter.sendAt ?? null,
    sent: letter.sent ?? null,
    sentToo: letter.sentToo ?? false,
  };
}

/** What is the same for all letters that are begun together. */
interface Writing {
  readonly identities: readonly Identity[];
  readonly own: ReadonlySet<string>;
  readonly zone: string;
  readonly originals: ReadonlyMap<MessageId, Answered>;
}

async function readWriting(sql: Queryable, { person, zone }: Writer, letters: readonly NewLetter[]): Promise<Writing> {
  const own = await ownAddresses(sql, person);
  const identities = await readIdentities(sql, person);
  const answered = letters.flatMap(({ answers }) => (answers === null ? [] : [answers]));
  return { identities, own, zone, originals: await readOriginals(sql, person, answered) };
}

const originalOf = ({ answers }: NewLetter, { originals }: Writing): Answered | null =>
  answers === null ? null : (originals.get(answers) ?? null);

/** What letters would be, without beginning them: for looking at beforehand. What they quote is left out. */
export async function foreseeLetters(sql: Queryable, writer: Writer, letters: readonly NewLetter[]): Promise<Begun[]> {
  const writing = await readWriting(sql, writer, letters);
  return letters.map((letter) => draftOf(letter, originalOf(letter, writing), null, writing));
}

type Sources = Pick<NewMessage, "raw" | "hash" | "parsed" | "keys"> & { readonly text: string };

/** The source of a draft, and what is read of it like of any other message. */
async function sourceOf(draft: Begun, files: Awaited<ReturnType<typeof readFiles>>, date: Date): Promise<Sources> {
  const raw = await writeLetter({ ...draft, date, files });
  const { parsed, text } = await parseWithText(raw, { now: date });
  return { raw, hash: createHash("sha256").update(raw).digest(), parsed, keys: keysOf(parsed), text };
}

/**
 * Begins letters, each a message of the person's own with what of it can be edited beside it. Call it in the
 * person's turn.
 * @param folder where they lie at first
 * @returns their ids, in the order of the letters
 */
export async function beginLetters(
  tx: Transaction,
  writer: Writer,
  letters: readonly NewLetter[],
  folder: number,
  now: Date,
): Promise<MessageId[]> {
  const { person } = writer;
  const writing = await readWriting(tx, writer, letters);
  const ids = (await reserve(tx, "message", letters.length)) as MessageId[];
  const contents = await reserve(tx, "content", letters.length);
  const messages: NewMessage[] = [];
  for (const [i, letter] of letters.entries()) {
    const original = originalOf(letter, writing);
    // What has not come cannot be quoted; an answer can be written all the same.
    const isQuoted = original && letter.kind !== "new" && !isComing(original.flaws);
    const quote = isQuoted ? await quoteOf(original) : null;
    const draft = draftOf(letter, original, quote, writing);
    const id = ids[i]!;
    const forwarded = original && letter.kind === "forward" ? await filesOf(original) : [];
    const files = await insertFiles(tx, person, id, [
      ...forwarded,
      ...(quote?.pictures ?? []),
      ...(letter.files ?? []).map((file) => ({ ...file, cid: null })),
    ]);
    const { text: _, ...source } = await sourceOf(draft, files, now);
    const thread = original && letter.kind !== "forward" ? original.thread : id;
    messages.push({
      ...source,
      id,
      content: contents[i]!,
      thread,
      account: 0,
      folder,
      bits: STATE_BIT.read,
      marker: 0,
      labels: [],
      sender: 0,
    });
    await insertDraft(tx, person, { ...draft, message: id, version: 1 });
    await tx`
      insert into thread_id (person, message_id, thread) values (${person}, ${draft.messageId}, ${thread})
      on conflict do nothing`;
  }
  await insertMessages(tx, person, writing.own, messages);
  return ids;
}

/**
 * Makes the source of a draft from what is in it now, and everything that is read of the source. Call it in the
 * person's turn, and tell windows of the message.
 */
export async function sealDraft(tx: Transaction, person: PersonId, message: MessageId, date: Date): Promise<void> {
  const draft = await readDraft(tx, person, message);
  if (!draft) throw new Error(`message ${message} is no draft`);
  const { text, ...source } = await sourceOf(draft, await readFiles(tx, person, message), date);
  const [row] = await tx<{ thread: number; folder: number }[]>`
    select m.thread, s.folder from message m join message_state s on s.person = m.person and s.message = m.id
    where m.person = ${person} and m.id = ${message}`;
  const [content] = await reserve(tx, "content", 1);
  const own = await ownAddresses(tx, person);
  await replaceSource(tx, person, own, {
    ...source,
    id: message,
    content: content!,
    account: 0,
    ...row!,
    bits: STATE_BIT.read,
    marker: 0,
    labels: [],
    sender: 0,
  });
  const { keys } = source;
  // Where the index of words has been past it already, it is told here.
  await rewriteWords(tx, person, message, vectorOf([keys.subject, keys.from, keys.to, keys.file], text));
}
