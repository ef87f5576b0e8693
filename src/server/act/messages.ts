import { readPlace, writePlace, type Message, type MessageRow, type Order } from "@/core/api";
import { suspicionsOf } from "@/core/deceit";
import { messageId } from "@/core/id";
import { cluesOf, flawText, isComing, isHeavy, type Flaw } from "@/core/mail";
import { readNarrow, type Test } from "@/core/narrow";
import type { Directory } from "@/core/place";
import { countMatches, pageOfIds } from "../search";
import { partsOf } from "../parse";
import { Refusal, badNarrow, notFound, readDirectory, whyComing } from "../run";
import type { Context } from "./context";
import { ownAddresses, readAcquaintance, stillComing, wantSources } from "../store";
import { readRows } from "./rows";
import { readKeptUntil } from "./keeping";
import { tasksOf } from "./tasks";

export const MOST_ROWS = 1000;
const MOST_THREAD_ROWS = 200;

/** A narrowing as the request wrote it, checked. @throws Refusal with the issues and their spans */
export async function readTest(context: Context, narrow: string, known?: Directory): Promise<Test> {
  const directory = known ?? (await readDirectory(context.db.sql, context.person));
  const checked = readNarrow(narrow, { directory, now: new Date(), zone: context.zone });
  if (!checked.ok) throw badNarrow(checked.issues);
  return checked.test;
}

export async function listMessages(
  context: Context,
  query: { narrow: string; order: Order; limit: number; after: string | null },
): Promise<{ total: number; rows: MessageRow[]; after: string | null }> {
  const { db, person } = context;
  const after = query.after === null ? null : readPlace(query.after);
  if (query.after !== null && !after)
    throw new Refusal(400, "Not a place in the list", 'Give back what the last page said under "after".');
  const directory = await readDirectory(db.sql, person);
  const test = await readTest(context, query.narrow, directory);
  const [places, total] = await Promise.all([
    pageOfIds(db.sql, person, test, query.order, query.limit, after),
    countMatches(db.sql, person, test),
  ]);
  const rows = await readRows(
    db.sql,
    context,
    directory,
    places.map((place) => place.id),
  );
  const last = places.length === query.limit ? places.at(-1) : undefined;
  return { total, rows, after: last ? writePlace(last) : null };
}

interface Source {
  readonly raw: Uint8Array;
  readonly flaws: readonly Flaw[];
}

/** A message's source. @throws Refusal where it has not come: it is asked for before others then */
async function sourceOf({ db, person }: Context, id: number): Promise<Source> {
  const [row] = await db.sql<Source[]>`
    select c.raw, m.flaws from message m join content c on c.person = m.person and c.id = m.content
    where m.person = ${person} and m.id = ${id}`;
  if (!row) throw notFound("message", id);
  if (isComing(row.flaws)) throw await whyComing(db.sql, person, [messageId(id)]);
  return row;
}

export const readRaw = async (context: Context, id: number): Promise<Uint8Array> => (await sourceOf(context, id)).raw;

const bytesOf = (content: ArrayBuffer | Uint8Array | string): Uint8Array =>
  typeof content === "string" ? new TextEncoder().encode(content) : new Uint8Array(content as ArrayBuffer);

/** A message with what the list does not show of it, and its thread: itself first, then the others, the oldest first. */
async function readWhole({ db: { sql }, person }: Context, id: number) {
  const message = sql<{ raw: Uint8Array; cc: Message["cc"]; flaws: Flaw[]; list: string }[]>`
    select c.raw, m.cc, m.flaws, m.list from message m join content c on c.person = m.person and c.id = m.content
    where m.person = ${person} and m.id = ${id}`;
  const thread = sql<{ id: number }[]>`
    select id from message where person = ${person}
      and thread = (select thread from message where person = ${person} and id = ${id})
    order by date, id limit ${MOST_THREAD_ROWS}`;
  const [[facts], others] = await Promise.all([message, thread]);
  if (!facts) throw notFound("message", id);
  return { ...facts, thread: [id, ...others.map((row) => row.id).filter((other) => other !== id)] };
}

const LOST =
  "Only its headers are here: its text was on the server alone, and went with the message there or with the account.";

/** Of a message that is looked at the source comes before others, if it still can. */
async function lookedFor({ db, person }: Context, id: number): Promise<Message["source"]> {
  const [still] = await stillComing(db.sql, person, [messageId(id)]);
  if (still === undefined) return "lost";
  await wantSources(db.sql, person, [still]);
  return "coming";
}

/** What is asked of the database is asked at once: who turns the pages of a hundred messages waits for each of them. */
export async function readMessage(context: Context, id: number): Promise<Message> {
  const { db, person } = context;
  const readDirectories = readDirectory(db.sql, person);
  const [facts, directory, own, known, tasks, keptUntil] = await Promise.all([
    readWhole(context, id),
    readDirectories,
    ownAddresses(db.sql, person),
    readAcquaintance(db.sql, person),
    tasksOf(context, id),
    readDirectories.then((directory) => readKeptUntil(context, directory, id)),
  ]);
  const [rows, { email, flaws }] = await Promise.all([
    readRows(db.sql, context, directory, facts.thread),
    partsOf(facts.raw, facts.flaws),
  ]);
  const [row] = rows;
  if (row?.id !== id) throw notFound("message", id);
  const source = isComing(facts.flaws) ? await lookedFor(context, id) : "here";
  const { from } = row;
  const isOwn = own.has(from.address.toLowerCase());
  return {
    ...row,
    suspicions: isOwn ? [] : suspicionsOf({ ...from, list: facts.list }, cluesOf(email), known),
    cc: facts.cc,
    source,
    text: email.text ?? null,
    html: email.html ?? null,
    headers: email.headers.map(({ originalKey, key, value }) => ({ name: originalKey ?? key, value })),
    files: email.attachments.map((part, index) => ({
      index,
      name: part.filename ?? (part.mimeType === "message/rfc822" ? "message.eml" : `part-${index + 1}`),
      type: part.mimeType,
      size: bytesOf(part.content).length,
      contentId: part.contentId?.replace(/^<|>$/g, "") ?? null,
      inline: part.disposition === "inline" || Boolean(part.related),
    })),
    notes: [...new Set([...facts.flaws, ...flaws.filter((flaw) => isHeavy([flaw]))])].map((flaw) =>
      flaw === "coming" && source === "lost" ? LOST : flawText[flaw],
    ),
    tasks,
    keptUntil,
    threadRows: [...rows].sort((a, b) => a.date.localeCompare(b.date) || a.id - b.id),
  };
}

/** The calendar that a message carries; null for none. */
export async function readMessageCalendar(context: Context, id: number): Promise<string | null> {
  const { raw, flaws } = await sourceOf(context, id);
  const { email } = await partsOf(raw, flaws);
  const part = email.attachments.find(({ mimeType }) => mimeType === "text/calendar" || mimeType === "application/ics");
  return part ? new TextDecoder().decode(bytesOf(part.content)) : null;
}

export async function readAttachment(context: Context, id: number, index: number) {
  const { raw, flaws } = await sourceOf(context, id);
  const { email } = await partsOf(raw, flaws);
  const part = email.attachments[index];
  if (!part) throw notFound("attachment", index);
  return { name: part.filename ?? `part-${index + 1}`, type: part.mimeType, bytes: bytesOf(part.content) };
}
