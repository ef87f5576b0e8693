import { readPlace, writePlace, type Message, type MessageRow, type Order } from "@/core/api";
import { suspicionsOf } from "@/core/deceit";
import { cluesOf, flawText, isHeavy, type Flaw } from "@/core/mail";
import { readNarrow, type Test } from "@/core/narrow";
import { countMatches, pageOfIds } from "../search";
import { partsOf } from "../parse";
import { Refusal, badNarrow, notFound, readDirectory } from "../run";
import type { Context } from "./context";
import { ownAddresses, readAcquaintance } from "../store";
import { readRows } from "./rows";
import { keptUntil } from "./keeping";
import { tasksOf } from "./tasks";

export const MOST_ROWS = 1000;
const MOST_THREAD_ROWS = 200;

/** A narrowing as the request wrote it, checked. @throws Refusal with the issues and their spans */
export async function readTest(context: Context, narrow: string): Promise<Test> {
  const directory = await readDirectory(context.db.sql, context.person);
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
  const test = await readTest(context, query.narrow);
  const directory = await readDirectory(db.sql, person);
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

export async function readRaw({ db, person }: Context, id: number): Promise<Uint8Array> {
  const [row] = await db.sql<{ raw: Uint8Array }[]>`
    select c.raw from message m join content c on c.person = m.person and c.id = m.content
    where m.person = ${person} and m.id = ${id}`;
  if (!row) throw notFound("message", id);
  return row.raw;
}

const bytesOf = (content: ArrayBuffer | Uint8Array | string): Uint8Array =>
  typeof content === "string" ? new TextEncoder().encode(content) : new Uint8Array(content as ArrayBuffer);

export async function readMessage(context: Context, id: number): Promise<Message> {
  const { db, person } = context;
  const [raw, directory] = await Promise.all([readRaw(context, id), readDirectory(db.sql, person)]);
  const [facts] = await db.sql<{ thread: number; cc: Message["cc"]; flaws: Flaw[]; list: string }[]>`
    select thread, cc, flaws, list from message where person = ${person} and id = ${id}`;
  if (!facts) throw notFound("message", id);
  const thread = await db.sql<{ id: number }[]>`
    select id from message where person = ${person} and thread = ${facts.thread} order by date, id limit ${MOST_THREAD_ROWS}`;
  const rows = await readRows(db.sql, context, directory, [
    id,
    ...thread.map((row) => row.id).filter((other) => other !== id),
  ]);
  const { email, flaws } = await partsOf(raw, facts.flaws);
  const { from } = rows[0]!;
  const isOwn = (await ownAddresses(db.sql, person)).has(from.address.toLowerCase());
  return {
    ...rows[0]!,
    suspicions: isOwn
      ? []
      : suspicionsOf({ ...from, list: facts.list }, cluesOf(email), await readAcquaintance(db.sql, person)),
    cc: facts.cc,
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
    notes: [...new Set([...facts.flaws, ...flaws.filter((flaw) => isHeavy([flaw]))])].map((flaw) => flawText[flaw]),
    tasks: await tasksOf(context, id),
    keptUntil: await keptUntil(context, directory, id),
    threadRows: [...rows].sort((a, b) => a.date.localeCompare(b.date) || a.id - b.id),
  };
}

/** The calendar that a message carries; null for none. */
export async function readMessageCalendar({ db, person }: Context, id: number): Promise<string | null> {
  const [row] = await db.sql<{ raw: Uint8Array; flaws: Flaw[] }[]>`
    select c.raw, m.flaws from message m join content c on c.person = m.person and c.id = m.content
    where m.person = ${person} and m.id = ${id}`;
  if (!row) throw notFound("message", id);
  const { email } = await partsOf(row.raw, row.flaws);
  const part = email.attachments.find(({ mimeType }) => mimeType === "text/calendar" || mimeType === "application/ics");
  return part ? new TextDecoder().decode(bytesOf(part.content)) : null;
}

export async function readAttachment(context: Context, id: number, index: number) {
  const { db, person } = context;
  const [row] = await db.sql<{ raw: Uint8Array; flaws: Flaw[] }[]>`
    select c.raw, m.flaws from message m join content c on c.person = m.person and c.id = m.content
    where m.person = ${person} and m.id = ${id}`;
  if (!row) throw notFound("message", id);
  const { email } = await partsOf(row.raw, row.flaws);
  const part = email.attachments[index];
  if (!part) throw notFound("attachment", index);
  return { name: part.filename ?? `part-${index + 1}`, type: part.mimeType, bytes: bytesOf(part.content) };
}
