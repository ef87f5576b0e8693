import { changeOfMessages, type MessageEdit } from "@/core/change";
import { messageId, type MessageId } from "@/core/id";
import { TRAIT } from "@/core/narrow";
import { flagsSeen, NO_WORDS, sharedOf, wishOf, type Words } from "@/core/sync";
import type { Directory } from "@/core/place";
import type { Transaction } from "../../db";
import type { RemoteHead, RemoteMessage } from "../../gateway";
import { inTurn, readDirectory } from "../../run";
import { listOf, readStates, reserve, takeTurn } from "../../store";
import type { ParsedItem } from "../../parse";
import { intoOf, JUNK_ID, takeIn, type Good } from "../take-in";
import { claim, enter, noteDue, place, say, select, wordsIn, type Box, type Placed, type Round } from "./context";
import { meetFlags, type Said } from "./meet";
import { hasDue, pushDue } from "./push";

/** Takes in what is on the server and not here, the newest first. */

/** Heads are asked for so many at a time; sources until one of these is reached. */
const HEADS = 1000;
const FIRST_PIECE = 50;
const PIECE = 500;
const PIECE_BYTES = 16 << 20;

/** Messages of the account of which it is not known where on the server they are. */
const readLoose = ({ db, account }: Round) =>
  db.sql<{ message: MessageId; mailbox: number; messageId: string | null; size: number }[]>`
    select p.message, p.mailbox, m.message_id as "messageId", m.size
    from placement p join message m on m.person = p.person and m.id = p.message
    where p.person = ${account.person} and p.account = ${account.id} and p.uid is null`;

/** A letter that went is what the server has filed of it by itself, whatever it has changed about it. */
async function adoptSent(round: Round, box: Box, heads: readonly RemoteHead[]): Promise<RemoteHead[]> {
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
  const messages = placed.map(({ message }) => message);
  await inTurn(db, account.person, async (tx, seq) => {
    await place(tx, round, placed);
    await claim(tx, round, seq, messages);
    await noteDue(tx, round, messages);
  });
  return left;
}

const key = (id: string | null, size: number) => `${id ?? ""}\n${size}`;

/** What moves while it is looked for has been seen where it comes to and not yet where it left: it is looked for again there. */
async function loosenLeft(round: Round, box: Box, heads: readonly RemoteHead[]): Promise<void> {
  const { db, account, imap } = round;
  const rows = await db.sql<{ mailbox: number; path: string; uid: number }[]>`
    select p.mailbox, b.path, p.uid
    from jsonb_to_recordset(${JSON.stringify(heads.map(({ messageId: id, size }) => ({ id, size })))}::text::jsonb) as r(id text, size int)
      -- By way of the threads, which are what ids of messages are indexed for.
      join thread_id t on t.person = ${account.person} and t.message_id in (r.id, ${JUNK_ID} || r.id)
      join message m on m.person = t.person and m.thread = t.thread and m.message_id = r.id and m.size = r.size
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
async function adopt(round: Round, box: Box, heads: readonly RemoteHead[]): Promise<RemoteHead[]> {
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

/** The same source is here already, under messages that may or may not have a place on a server. */
async function doublesOf(tx: Transaction, { account }: Round, hashes: readonly string[]) {
  return tx<{ hash: string; message: MessageId; placed: boolean }[]>`
    select encode(c.hash, 'hex') as hash, m.id as message, p.message is not null as placed
    from content c join message m on m.person = c.person and m.content = c.id
      join message_state s on s.person = m.person and s.message = m.id
      left join placement p on p.person = m.person and p.message = m.id
    where c.person = ${account.person} and c.hash in (select decode(h, 'hex') from unnest(${[...hashes]}::text[]) h)
    order by m.id`;
}

/** What a source says is less than what the server knows of the message. */
function known(item: ParsedItem, { raw, flags }: RemoteMessage, directory: Directory, words: Words): Good {
  const seen = flagsSeen(flags, words);
  const named = (word: string) => directory.labels.filter(({ id }) => words.labels.get(id) === word);
  const marker = [...words.markers].find(([, word]) => seen.words.includes(word))?.[0];
  return {
    ...item,
    raw,
    marker: marker ?? 0,
    parsed: {
      ...item.parsed,
      read: seen.read,
      flagged: seen.flagged,
      keywords: seen.words.flatMap((word) => named(word).map(({ name }) => name)),
      traits: item.parsed.traits | (seen.answered ? TRAIT.answered : 0),
    },
  };
}

const hex = (bytes: Uint8Array): string => Buffer.from(bytes).toString("hex");

/** Puts the messages of a piece where they belong: those that are new, those that were here, and second ones of the same source. */
async function settlePiece(
  tx: Transaction,
  round: Round,
  box: Box,
  seq: number,
  piece: readonly RemoteMessage[],
  items: readonly ParsedItem[],
): Promise<void> {
  const { person } = round.account;
  const [directory, into] = await Promise.all([
    readDirectory(tx, person),
    intoOf(tx, person, box.folder, round.account.id, box.isWhole),
  ]);
  const words = wordsIn(round, directory, box.id);
  const goods = items.map((item, i) => known(item, piece[i]!, directory, words));
  const { ids } = await takeIn(tx, seq, into, goods);
  const placed: Placed[] = [];
  const later: { good: Good; remote: RemoteMessage }[] = [];
  const base = (remote: RemoteMessage, message: MessageId): Placed => ({
    ...flagsSeen(remote.flags, words),
    message,
    mailbox: box.id,
    folder: box.folder,
    uid: remote.uid,
  });
  const used = new Set<string>();
  goods.forEach((good, i) => {
    const id = ids.get(hex(good.hash));
    if (id !== undefined && !used.has(hex(good.hash))) placed.push(base(piece[i]!, id));
    else later.push({ good, remote: piece[i]! });
    used.add(hex(good.hash));
  });
  await place(tx, round, placed);
  await dueWhereOther(tx, round, placed, words);
  if (later.length > 0) await settleDoubles(tx, round, later, base);
}

/** What was decided as it came, by a rule or for a blocked sender, is to be so on the server too. */
async function dueWhereOther(tx: Transaction, round: Round, placed: readonly Placed[], words: Words): Promise<void> {
  const states = await readStates(
    tx,
    round.account.person,
    placed.map(({ message }) => message),
  );
  const other = placed.filter((base) => {
    const state = states.get(base.message);
    return state !== undefined && wishOf(sharedOf(state, base.answered, words), base) !== null;
  });
  if (other.length > 0)
    await noteDue(
      tx,
      round,
      other.map(({ message }) => message),
    );
}

/** A source that is here: its message gets the place, or, where it has one, is there a second time as it is on the server. */
async function settleDoubles(
  tx: Transaction,
  round: Round,
  later: readonly { readonly good: Good; readonly remote: RemoteMessage }[],
  base: (remote: RemoteMessage, message: MessageId) => Placed,
): Promise<void> {
  const { person } = round.account;
  const here = await doublesOf(tx, round, [...new Set(later.map(({ good }) => hex(good.hash)))]);
  const free = new Map<string, MessageId[]>();
  for (const { hash, message, placed } of here) if (!placed) free.set(hash, [...(free.get(hash) ?? []), message]);
  const placed: Placed[] = [];
  const own: MessageId[] = [];
  const copies = new Map<MessageId, MessageEdit[]>();
  const states = await readStates(
    tx,
    person,
    here.map(({ message }) => messageId(message)),
  );
  for (const { good, remote } of later) {
    const hash = hex(good.hash);
    const known = free.get(hash)?.shift();
    if (known !== undefined) {
      own.push(messageId(known));
      placed.push(base(remote, messageId(known)));
      continue;
    }
    const source = here.find((one) => one.hash === hash)?.message;
    const state = source === undefined ? undefined : states.get(messageId(source));
    if (source === undefined || state === undefined) continue;
    const [id] = await reserve(tx, "message", 1);
    const there = base(remote, messageId(id!));
    const labels = good.parsed.keywords.length === 0 ? [] : state.labels;
    const { read, flagged, folder } = there;
    const after = {
      ...state,
      folder,
      read,
      labels,
      marker: null,
      flag: flagged ? { start: null, due: null, note: null } : null,
    };
    copies.set(there.message, [{ kind: "exists", before: null, after: { source: messageId(source), state: after } }]);
    placed.push(there);
  }
  if (copies.size > 0) {
    const seq = await takeTurn(tx, person);
    const about = copies.size === 1 ? "1 message" : `${copies.size} messages`;
    await enter(tx, round, seq, changeOfMessages(copies), { name: "A second time on the server", about });
  }
  if (own.length > 0) await claim(tx, round, await takeTurn(tx, person), own);
  await place(tx, round, placed);
  await noteDue(
    tx,
    round,
    placed.map(({ message }) => message),
  );
}

/** @param first how many the first piece is to have at the most */
function* pieces(heads: readonly RemoteHead[], first: number): Generator<readonly RemoteHead[]> {
  let piece: RemoteHead[] = [];
  let bytes = 0;
  let most = first;
  for (const head of heads) {
    if (piece.length > 0 && (piece.length >= most || bytes + head.size > PIECE_BYTES)) {
      yield piece;
      [piece, bytes, most] = [[], 0, PIECE];
    }
    piece.push(head);
    bytes += head.size;
  }
  if (piece.length > 0) yield piece;
}

/** What of a piece is placed already was taken in by another process. */
async function missing({ db, account }: Round, box: Box, uids: readonly number[]): Promise<number[]> {
  const rows = await db.sql<{ uid: number }[]>`
    select p.uid from unnest(${listOf(uids)}::text::bigint[]) as w(uid)
      join placement p on p.person = ${account.person} and p.mailbox = ${box.id} and p.uid = w.uid`;
  const there = new Set(rows.map(({ uid }) => uid));
  return uids.filter((uid) => !there.has(uid));
}

/** Progress of taking in, over all mailboxes of a round. */
export interface Taking {
  done: number;
  readonly total: number;
}

/** A piece of what is not here yet, as it came over the line. */
interface Piece {
  readonly messages: readonly RemoteMessage[];
  /** How many were asked for. */
  readonly asked: number;
}

/** Does what is asked of a line one after the other. */
function oneAtATime() {
  let last: Promise<unknown> = Promise.resolve();
  return <T>(work: () => Promise<T>): Promise<T> => {
    const next = last.then(work, work);
    last = next;
    return next;
  };
}
type Line = ReturnType<typeof oneAtATime>;

/** Has the next one made while the one before is worked on. */
async function* ahead<T>(from: AsyncGenerator<T>): AsyncGenerator<T> {
  const next = () => {
    const coming = from.next();
    // Whoever waits for it hears what went wrong.
    coming.catch(() => undefined);
    return coming;
  };
  for (let coming = next(); ;) {
    const { value, done } = await coming;
    if (done) return;
    coming = next();
    yield value;
  }
}

/** Fetches a mailbox piece after piece, the newest first. What turns out to be here is put where it belongs on the way. */
async function* fetched(
  round: Round,
  box: Box,
  uids: readonly number[],
  taking: Taking,
  line: Line,
): AsyncGenerator<Piece> {
  const { imap } = round;
  const newest = [...uids].sort((a, b) => b - a);
  for (let from = 0; from < newest.length; from += HEADS) {
    const left = await line(async () => {
      const wanted = await missing(round, box, newest.slice(from, from + HEADS));
      const heads = wanted.length === 0 ? [] : await imap.heads(wanted);
      const own = await adoptSent(round, box, await adopt(round, box, heads));
      taking.done += heads.length - own.length;
      return own.sort((a, b) => b.uid - a.uid);
    });
    for (const piece of pieces(left, from === 0 ? FIRST_PIECE : PIECE))
      yield { messages: await line(() => imap.messages(piece.map(({ uid }) => uid))), asked: piece.length };
  }
}

/** Reads what was fetched. */
async function* parsed(round: Round, fetching: AsyncGenerator<Piece>) {
  for await (const piece of fetching) {
    const items = await round.parse(piece.messages.map(({ raw }) => raw));
    yield { ...piece, items };
  }
}

/**
 * Takes messages of a mailbox in: while a piece is written, the next one is parsed and the one behind that comes over
 * the line.
 * @param uids of those that are not here
 */
export async function takeFresh(round: Round, box: Box, uids: readonly number[], taking: Taking): Promise<void> {
  const { db, account } = round;
  await select(round, box);
  const line = oneAtATime();
  const arriving = ahead(parsed(round, ahead(fetched(round, box, uids, taking, line))));
  for await (const { messages, items, asked } of arriving) {
    await inTurn(db, account.person, (tx, seq) => settlePiece(tx, round, box, seq, messages, items));
    taking.done += asked;
    await say(round, "taking mail in", taking.done, taking.total);
    // What the person decides meanwhile does not wait for all of it.
    if (await hasDue(round))
      await line(async () => {
        await pushDue(round);
        await select(round, box);
      });
  }
}
