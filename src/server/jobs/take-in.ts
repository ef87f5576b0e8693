import { randomUUID } from "node:crypto";
import { STATE_BIT } from "@/core/columns";
import { messageId, runId, threadId, type MessageId, type PersonId, type ThreadId } from "@/core/id";
import type { Parsed } from "@/core/mail";
import { suspicionsOf, type Acquaintance } from "@/core/deceit";
import { fold, TRAIT } from "@/core/narrow";
import { storable } from "@/core/text";
import { baseSubject, placeInThreads, subjectKey, type ThreadItem } from "@/core/thread";
import type { Transaction } from "../db";
import { applyRules, holdBack, noteAnswers, readDirectory, setAside } from "../run";
import {
  appendArrival,
  inMs,
  insertMessages,
  noteWrittenTo,
  ownAddresses,
  readAcquaintance,
  reserve,
  type NewMessage,
} from "../store";
import type { ParsedItem } from "../parse";

/** A message as it is taken in: its source, and what was read of it. */
export type Good = ParsedItem & {
  readonly raw: Uint8Array;
  /** Its marker's number; 0 or nothing for none. */
  readonly marker?: number;
  /** Of one whose source is on a server still: how many bytes that has. Its "raw" is the headers. */
  readonly coming?: number | undefined;
};

export interface Into {
  readonly person: PersonId;
  readonly folder: number;
  /** The account it comes through; 0 for none. */
  readonly account: number;
  /** Whether rules look at it. */
  readonly isNews: boolean;
  /** The junk folder; null where there is none. */
  readonly junk: number | null;
  /** The person's own addresses, in lower case. */
  readonly own: ReadonlySet<string>;
  /** Labels by name in lower case; keywords of mail that name one are put on. */
  readonly labels: ReadonlyMap<string, number>;
  /** Addresses, and domains as "@larch.example", whose mail goes to the junk folder instead of the inbox, and that folder; null for other folders. */
  readonly blocked: { readonly addresses: ReadonlySet<string>; readonly folder: number } | null;
}

const hex = (bytes: Uint8Array) => Buffer.from(bytes).toString("hex");

/** Messages whose source is not here yet, each once. */
async function onlyNew(tx: Transaction, person: PersonId, items: readonly Good[]): Promise<Good[]> {
  const known = await tx<{ hash: string }[]>`
    select encode(hash, 'hex') as hash from content
    where person = ${person} and hash in (select decode(h, 'hex') from unnest(${items.map((item) => hex(item.hash))}::text[]) h)`;
  const seen = new Set(known.map((row) => row.hash));
  return items.filter((item) => {
    const hash = hex(item.hash);
    return !seen.has(hash) && seen.add(hash);
  });
}

/** Of everybody a message goes to, so many are looked at for who it shares with another one. */
const MOST_PEOPLE = 12;
/** Before the ids of junk, which joins no thread but that of other junk: it may name any message as what it answers. */
export const JUNK_ID = "junk ";

function threadItem(parsed: Parsed, own: ReadonlySet<string>, isJunk: boolean): ThreadItem {
  const { base, isReply } = baseSubject(parsed.subject);
  const people = [parsed.from, ...parsed.to, ...parsed.cc]
    .map(({ address }) => storable(address.toLowerCase()).slice(0, 320))
    .filter((address) => address !== "" && !own.has(address));
  const named = (id: string) => (isJunk ? JUNK_ID + id : id);
  return {
    messageId: parsed.messageId === null ? null : named(parsed.messageId),
    references: parsed.references.map(named),
    subject: isJunk ? "" : fold(base).trim().slice(0, 300),
    isReply,
    people: [...new Set(people)].slice(0, MOST_PEOPLE),
    dateMs: parsed.date.getTime(),
  };
}

/**
 * Finds the threads of new messages, and joins older threads that turn out to be one.
 * @param junk which of the items go to junk
 * @returns ids of messages so joined
 */
async function thread(
  tx: Transaction,
  person: PersonId,
  items: readonly Good[],
  ids: readonly number[],
  own: ReadonlySet<string>,
  junk: ReadonlySet<number>,
): Promise<{ threads: readonly ThreadId[]; joined: number[] }> {
  const asked = items.map((item, i) => threadItem(item.parsed, own, junk.has(i)));
  const names = [
    ...new Set(asked.flatMap((item) => [...item.references, ...(item.messageId ? [item.messageId] : [])])),
  ];
  const subjects = [...new Set(asked.filter((item) => item.isReply).map((item) => item.subject))];
  // What a subject was met with is asked for by whoever may answer to it.
  const addresses = [...new Set(asked.flatMap((item) => item.people))];
  const [byId, bySubject] = await Promise.all([
    tx<{ key: string; thread: number }[]>`
      select message_id as key, thread from thread_id where person = ${person} and message_id = any(${names}::text[])`,
    tx<{ subject: string; address: string; thread: number; seen: number }[]>`
      select subject, address, thread, ${tx.unsafe(inMs("seen"))} as seen from thread_subject
      where person = ${person} and subject = any(${subjects}::text[]) and address = any(${addresses}::text[])`,
  ]);
  const known = {
    byId: new Map(byId.map((row) => [row.key, threadId(row.thread)])),
    bySubject: new Map(
      bySubject.map((row) => [
        subjectKey(row.subject, row.address),
        { thread: threadId(row.thread), dateMs: row.seen },
      ]),
    ),
  };
  // A new thread takes the number of its first message, which rises with every message.
  let at = 0;
  const placed = placeInThreads(asked, known, () => threadId(ids[at++]!));
  const met = [...placed.bySubject].map(([key, { thread, dateMs }]) => {
    const [subject, address] = key.split("\n");
    return { subject, address, thread, seen: new Date(dateMs).toISOString() };
  });
  await Promise.all([
    tx`
      insert into thread_id (person, message_id, thread)
      select ${person}, k, t from unnest(${[...placed.byId.keys()]}::text[], ${[...placed.byId.values()]}::bigint[]) as x(k, t)
      on conflict (person, message_id) do update set thread = excluded.thread where thread_id.thread <> excluded.thread`,
    tx`
      insert into thread_subject (person, subject, address, thread, seen)
      select ${person}, subject, address, thread, seen
      from jsonb_to_recordset(${JSON.stringify(met)}::text::jsonb) as x(subject text, address text, thread bigint, seen timestamptz)
      on conflict (person, subject, address) do update set thread = excluded.thread, seen = excluded.seen`,
  ]);
  const joined: number[] = [];
  if (placed.merged.length > 0) {
    const [into, from] = [placed.merged.map((pair) => pair[0]), placed.merged.map((pair) => pair[1])];
    for (const table of ["message", "thread_id", "thread_subject"]) {
      const rows = await tx.unsafe<{ id: number }[]>(
        `update ${table} t set thread = x.into_ from unnest($2::bigint[], $3::bigint[]) as x(into_, from_)
         where t.person = $1 and t.thread = x.from_ ${table === "message" ? "returning t.id" : ""}`,
        [person, into, from],
      );
      joined.push(...rows.map((row) => row.id));
    }
  }
  return { threads: placed.threads, joined };
}

/** What about a message does not fit, as bits of TRAIT. */
export function suspectBits({ parsed }: Pick<Good, "parsed">, own: ReadonlySet<string>, known: Acquaintance): number {
  const { from, list, clues } = parsed;
  if (own.has(from.address.toLowerCase())) return 0;
  return suspicionsOf({ ...from, list }, clues, known).reduce((bits, { sign }) => bits | TRAIT[sign], 0);
}

const stateBits = (item: Good): number =>
  (item.parsed.read ? STATE_BIT.read : 0) | (item.parsed.flagged ? STATE_BIT.flagged : 0);

/**
 * Where mail goes, read in the turn in which it comes in: a folder that was removed since the import began gives
 * way to the inbox, and a sender who was just blocked is blocked.
 * @param folder null for the inbox
 * @param account 0 for none
 * @param isNews whether rules look at it: what was there before somebody came is none
 */
export async function intoOf(
  tx: Transaction,
  person: PersonId,
  folder: number | null,
  account: number,
  isNews: boolean,
): Promise<Into> {
  const [{ folders, labels }, own, senders] = await Promise.all([
    readDirectory(tx, person),
    ownAddresses(tx, person),
    tx<{ address: string }[]>`select address from blocked where person = ${person}`,
  ]);
  const inbox = folders.find((one) => one.role === "inbox");
  const junk = folders.find((one) => one.role === "junk");
  const there = folders.find((one) => one.id === folder) ?? inbox;
  if (!there) throw new Error("there is no folder to bring the mail into");
  const blocked = there === inbox ? senders : [];
  return {
    person,
    folder: there.id,
    account,
    isNews,
    junk: junk?.id ?? null,
    own,
    labels: new Map(labels.map((label) => [label.name.toLowerCase(), label.id])),
    blocked:
      junk && blocked.length > 0 ? { addresses: new Set(blocked.map((row) => row.address)), folder: junk.id } : null,
  };
}

/** Whether a sender is blocked, or its domain, or one that this is part of. */
function isBlocked(blocked: ReadonlySet<string>, address: string): boolean {
  const sender = address.toLowerCase();
  if (blocked.has(sender)) return true;
  const names = sender.slice(sender.lastIndexOf("@") + 1).split(".");
  return names.some((_, i) => blocked.has(`@${names.slice(i).join(".")}`));
}

/** Numbers of senders, those that are new among them. @param addresses in lower case */
async function senderIds(
  tx: Transaction,
  person: PersonId,
  addresses: readonly string[],
): Promise<Map<string, number>> {
  const each = [...new Set(addresses)];
  const [, rows] = await Promise.all([
    tx`
      insert into sender (person, domain, address)
      select ${person}, split_part(a, '@', -1), a from unnest(${each}::text[]) as a on conflict do nothing`,
    tx<{ id: number; address: string }[]>`
      select id, address from sender where person = ${person} and address = any(${each}::text[])`,
  ]);
  return new Map(rows.map(({ id, address }) => [address, id]));
}

export interface TakenIn {
  readonly added: number;
  /** How many were here already. */
  readonly doubles: number;
  /** Ids of those that were added, by their sources' hashes in hexadecimal. */
  readonly ids: ReadonlyMap<string, MessageId>;
}

/**
 * Takes parsed messages in, in the person's turn: source, headers, threads, state and an arrival that tells
 * every window. Statements that need nothing of one another go out together: where the process reads from a server and
 * parses besides, each answer that is waited for waits behind all of that. What is new has no state that anybody could have changed, so this is no change and no run.
 */
export async function takeIn(tx: Transaction, seq: number, into: Into, items: readonly Good[]): Promise<TakenIn> {
  const { person, own, labels, blocked } = into;
  const fresh = await onlyNew(tx, person, items);
  const doubles = items.length - fresh.length;
  if (fresh.length === 0) return { added: 0, doubles, ids: new Map() };
  const [contents, ids, known] = await Promise.all([
    reserve(tx, "content", fresh.length),
    reserve(tx, "message", fresh.length),
    readAcquaintance(tx, person),
  ]);
  const folders = fresh.map((item) =>
    blocked && isBlocked(blocked.addresses, item.parsed.from.address) ? blocked.folder : into.folder,
  );
  const junk = new Set(folders.flatMap((folder, i) => (folder === into.junk ? [i] : [])));
  const from = fresh
    .map((item) => storable(item.parsed.from.address.toLowerCase()))
    .filter((address) => !own.has(address));
  const [{ threads, joined }, senders] = await Promise.all([
    thread(tx, person, fresh, ids, own, junk),
    senderIds(tx, person, from),
  ]);
  const messages = fresh.map((item, i): NewMessage => ({
    ...item,
    parsed: { ...item.parsed, traits: item.parsed.traits | suspectBits(item, own, known) },
    id: ids[i]!,
    content: contents[i]!,
    thread: threads[i]!,
    account: into.account,
    folder: folders[i]!,
    bits: stateBits(item),
    marker: item.marker ?? 0,
    sender: senders.get(item.parsed.from.address.toLowerCase()) ?? 0,
    labels: [
      ...new Set(item.parsed.keywords.map((word) => labels.get(word.toLowerCase())).filter((id) => id !== undefined)),
    ].sort((a, b) => a - b),
  }));
  await insertMessages(tx, person, own, messages);
  const sent = fresh.map(({ parsed }) => parsed);
  await Promise.all([
    noteWrittenTo(tx, person, own, sent),
    // Earlier messages whose thread is another one now are news too.
    appendArrival(tx, person, seq, runId(randomUUID()), [...ids, ...joined]),
  ]);
  await noteAnswers(tx, person, ids);
  if (into.isNews) await applyRules(tx, person, ids);
  await setAside(tx, person, ids);
  if (into.isNews) await holdBack(tx, person, ids, new Date());
  return {
    added: fresh.length,
    doubles,
    ids: new Map(fresh.map((item, i) => [hex(item.hash), messageId(ids[i]!)])),
  };
}
