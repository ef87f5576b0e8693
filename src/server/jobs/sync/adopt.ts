import { messageId, type MessageId } from "@/core/id";
import { flagsSeen, NO_WORDS } from "@/core/sync";
import type { RemoteHead } from "../../gateway";
import { inTurn, readDirectory } from "../../run";
import { listOf, resumeComing } from "../../store";
import { JUNK_ID } from "../take-in";
import { claim, noteDue, place, select, wordsIn, type Box, type Placed, type Round } from "./context";
import { meetFlags, type Said } from "./meet";

/** Messages that are new in a mailbox and are here already, told by what their headers say. */

/** Messages of the account of which it is not known where on the server they are. */
const readLoose = ({ db, account }: Round) =>
  db.sql<{ message: MessageId; mailbox: number; messageId: string | null; size: number }[]>`
    select p.message, p.mailbox, m.message_id as "messageId", m.size
    from placement p join message m on m.person = p.person and m.id = p.message
    where p.person = ${account.person} and p.account = ${account.id} and p.uid is null`;

/** Messages that are here have their place on the server from now on. */
async function placeKnown(round: Round, placed: readonly Placed[]): Promise<void> {
  if (placed.length === 0) return;
  const messages = placed.map(({ message }) => message);
  await inTurn(round.db, round.account.person, async (tx, seq) => {
    await place(tx, round, placed);
    await claim(tx, round, seq, messages);
    await noteDue(tx, round, messages);
    await resumeComing(tx, round.account.person, round.account.id, messages);
  });
}

/** A letter that went is what the server has filed of it by itself, whatever it has changed about it. */
async function adoptSent<H extends RemoteHead>(round: Round, box: Box, heads: readonly H[]): Promise<H[]> {
  const { db, account } = round;
  const ids = heads.flatMap(({ messageId: id }) => id ?? []);
  const rows = await db.sql<{ id: string; message: number }[]>`
    select m.message_id as id, m.id as message from held h
      join message m on m.person = h.person and m.id = h.message
    where h.person = ${account.person} and h.account = ${account.id} and h.state = 'sent'
      and m.message_id = any(${ids}::text[])
      and not exists (select from placement p where p.person = m.person and p.message = m.id)`;
  const went = new Map(rows.map(({ id, message }) => [id, messageId(message)]));
  if (went.size === 0) return [...heads];
  const placed: Placed[] = [];
  const left = heads.filter(({ messageId: id, uid, flags }) => {
    const message = id === null ? undefined : went.get(id);
    if (id === null || message === undefined) return true;
    went.delete(id);
    placed.push({ ...flagsSeen(flags, NO_WORDS), message, mailbox: box.id, folder: box.folder, uid });
    return false;
  });
  await placeKnown(round, placed);
  return left;
}

const key = (id: string | null, size: number) => `${id ?? ""}\n${size}`;

/** Messages m that are here with the ids of some, r, which have sizes too. */
const sameIds = ({ db: { sql }, account: { person } }: Round, heads: readonly RemoteHead[]) => sql`
  jsonb_to_recordset(${JSON.stringify(heads.map(({ messageId: id, size }) => ({ id, size })))}::text::jsonb) as r(id text, size int)
    -- By way of the threads, which are what ids of messages are indexed for.
    join thread_id t on t.person = ${person} and t.message_id in (r.id, ${JUNK_ID} || r.id)
    join message m on m.person = t.person and m.thread = t.thread and m.message_id = r.id`;

/** What moves while it is looked for has been seen where it comes to and not yet where it left: it is looked for again there. */
async function loosenLeft(round: Round, box: Box, heads: readonly RemoteHead[]): Promise<void> {
  const { db, account, imap } = round;
  const rows = await db.sql<{ mailbox: number; path: string; uid: number }[]>`
    select p.mailbox, b.path, p.uid
    from ${sameIds(round, heads)} and m.size = r.size
      join placement p on p.person = m.person and p.message = m.id and p.account = ${account.id} and p.uid is not null
      join mailbox b on b.person = p.person and b.id = p.mailbox
    where p.mailbox <> ${box.id}`;
  if (rows.length === 0) return;
  for (const mailbox of new Set(rows.map((row) => row.mailbox))) {
    const some = rows.filter((row) => row.mailbox === mailbox);
    await select(round, { id: mailbox, path: some[0]!.path });
    const there = await imap.existing(some.map(({ uid }) => uid));
    const gone = some.filter(({ uid }) => !there.has(uid)).map(({ uid }) => uid);
    if (gone.length > 0)
      await db.sql`
        update placement p set uid = null from unnest(${listOf(gone)}::text::bigint[]) as w(uid)
        where p.person = ${account.person} and p.mailbox = ${mailbox} and p.uid = w.uid`;
  }
  await select(round, box);
}

/**
 * A message that is new in a mailbox may be one that was moved there, by whomever: it is told by its Message-ID and
 * size, and goes on being the message it was.
 * @returns those that were not known
 */
async function adoptMoved<H extends RemoteHead>(round: Round, box: Box, heads: readonly H[]): Promise<H[]> {
  await loosenLeft(round, box, heads);
  const loose = await readLoose(round);
  if (loose.length === 0) return [...heads];
  const waiting = new Map<string, MessageId[]>();
  // What was moved here by this app is looked for here first.
  for (const one of [...loose].sort((a, b) => Number(b.mailbox === box.id) - Number(a.mailbox === box.id))) {
    const known = key(one.messageId, one.size);
    waiting.set(known, [...(waiting.get(known) ?? []), one.message]);
  }
  const found: Said[] = [];
  const left = heads.filter(({ messageId: id, size, uid, flags }) => {
    const message = id === null ? undefined : waiting.get(key(id, size))?.shift();
    if (message !== undefined) found.push({ message: messageId(message), uid, flags });
    return message === undefined;
  });
  if (found.length > 0) await meetFlags(round, box, found);
  return left;
}

/** Those of some messages that are not known to be here: neither moved here nor sent from here. */
export const adopt = async <H extends RemoteHead>(round: Round, box: Box, heads: readonly H[]): Promise<H[]> =>
  adoptSent(round, box, await adoptMoved(round, box, heads));

/**
 * Of messages whose headers are enough for now, those that are not here, and those that may be: only their sources
 * tell. What was here by its headers alone when its account was given up goes on being the message it was.
 */
export async function apart<H extends RemoteHead>(
  round: Round,
  box: Box,
  heads: readonly H[],
): Promise<{ readonly fresh: readonly H[]; readonly maybe: readonly H[] }> {
  const { db, account } = round;
  const rows = await db.sql<{ message: number; id: string; size: number; isLeft: boolean }[]>`
    select m.id as message, m.message_id as id, m.size, coalesce(c.account, -1) = 0 and p.message is null as "isLeft"
    from ${sameIds(round, heads)}
      left join coming c on c.person = m.person and c.content = m.content
      left join placement p on p.person = m.person and p.message = m.id
    order by m.id`;
  // Files of mail may have been brought in of which the sizes are others: what is read tells whether it is the same.
  const here = new Set(rows.map(({ id }) => id));
  const left = new Map(rows.filter(({ isLeft }) => isLeft).map(({ id, size, message }) => [key(id, size), message]));
  const words = wordsIn(round, await readDirectory(db.sql, account.person), box.id);
  const placed: Placed[] = [];
  const [fresh, maybe]: [H[], H[]] = [[], []];
  for (const head of heads) {
    const known = key(head.messageId, head.size);
    const message = left.get(known);
    if (message !== undefined) {
      left.delete(known);
      const base = { ...flagsSeen(head.flags, words), mailbox: box.id, folder: box.folder, uid: head.uid };
      placed.push({ ...base, message: messageId(message) });
    } else (head.messageId === null || here.has(head.messageId) ? maybe : fresh).push(head);
  }
  await placeKnown(round, placed);
  return { fresh, maybe };
}
