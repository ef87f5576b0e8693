import { changeOfMessages, type MessageEdit } from "@/core/change";
import { messageId, type MessageId } from "@/core/id";
import { folderFor } from "@/core/place";
import { plural } from "@/core/text";
import { Refused, type MailboxState, type RemoteFlags } from "../../gateway";
import { inTurn, readDirectory } from "../../run";
import { endComing, listOf, readStates } from "../../store";
import { enter, select, type Box, type Round } from "./context";
import { takeFresh, type Taking } from "./fresh";
import type { Listed } from "./mailboxes";
import { meetFlags } from "./meet";

/** Finds out what changed on the server. */

/** What a mailbox has that is not here, and how it was when that was looked at. */
interface Looked {
  readonly box: Box;
  readonly state: MailboxState;
  readonly fresh: readonly number[];
}

const readPlaced = ({ db, account }: Round, box: Box) =>
  db.sql<{ uid: number; message: number }[]>`
    select uid, message from placement where person = ${account.person} and mailbox = ${box.id} and uid is not null`;

/** Where messages were is not known any more: they are looked for, here and elsewhere. */
const loosen = ({ db, account }: Round, box: Box, uids: readonly number[] | null) =>
  uids === null
    ? db.sql`update placement set uid = null where person = ${account.person} and mailbox = ${box.id} and uid is not null`
    : db.sql`
        update placement p set uid = null from unnest(${listOf(uids)}::text::bigint[]) as w(uid)
        where p.person = ${account.person} and p.mailbox = ${box.id} and p.uid = w.uid`;

const note = (
  { db, account }: Round,
  box: Box,
  { validity, nextUid, modseq, messages }: MailboxState,
  isWhole: boolean,
) =>
  db.sql`
    update mailbox set validity = ${validity}, next_uid = ${nextUid}, modseq = ${modseq}, messages = ${messages}, is_whole = ${isWhole}
    where person = ${account.person} and id = ${box.id}`;

/** Nothing that the server counts has changed since it was taken in. */
export const looksSame = (box: Box, state: MailboxState): boolean =>
  box.validity === state.validity &&
  box.nextUid === state.nextUid &&
  box.modseq === state.modseq &&
  box.messages === state.messages;

/** Nothing of it has changed. A server that counts no changes has to be looked through. */
const isSame = (box: Box, state: MailboxState): boolean => box.isWhole && state.modseq > 0 && looksSame(box, state);

/** As many more messages as UIDs were given since: then each of them is new, and none has gone. */
const onlyGrew = (box: Box, state: MailboxState): boolean =>
  box.isWhole && state.messages - box.messages === state.nextUid - box.nextUid;

/** What changed of messages that are here. */
async function changedFlags(
  round: Round,
  before: Box,
  known: ReadonlyMap<number, MessageId>,
  flags: readonly RemoteFlags[],
): Promise<void> {
  const said = flags.flatMap(({ uid, flags: now }) => {
    const message = known.get(uid);
    return message === undefined ? [] : [{ message, uid, flags: now }];
  });
  await meetFlags(round, before, said);
}

/** What the open mailbox holds from a UID on; "*" is the last message, new or not. */
const uidsFrom = async ({ imap }: Round, first: number): Promise<number[]> =>
  (await imap.flags(`${first}:*`, 0)).map(({ uid }) => uid).filter((uid) => uid >= first);

/**
 * What is new and what has gone, by what the server says of changes; null where it does not, or where what it says
 * does not add up.
 */
async function told(
  round: Round,
  box: Box,
  state: MailboxState,
  known: ReadonlyMap<number, MessageId>,
  gone: readonly number[] | null,
): Promise<{ readonly fresh: number[]; readonly gone: number[] } | null> {
  if (!gone || !box.isWhole || round.account.since !== null) return null;
  const grown = state.nextUid === box.nextUid ? [] : await uidsFrom(round, box.nextUid);
  const fresh = grown.filter((uid) => !known.has(uid));
  const left = gone.filter((uid) => known.has(uid));
  return known.size - left.length + fresh.length === state.messages ? { fresh, gone: left } : null;
}

/** The same by looking at all of it. */
async function compared(round: Round, known: ReadonlyMap<number, MessageId>) {
  const { since } = round.account;
  const all = await round.imap.uids(since === null ? null : new Date(since));
  const there = new Set(all);
  return {
    fresh: all.filter((uid) => !known.has(uid)),
    gone: [...known.keys()].filter((uid) => !there.has(uid)),
  };
}

/** Looks at one mailbox: what has gone from it, what changed in it, and what is new in it. */
async function look(round: Round, { box, state: listed }: Listed): Promise<Looked | null> {
  const { imap } = round;
  // What was said before the look may be old by now: what has changed since is found by the next.
  const state = listed ?? (await imap.state(box.path));
  if (isSame(box, state)) return null;
  await select(round, box);
  const isOther = box.validity !== 0 && box.validity !== state.validity;
  if (isOther) await loosen(round, box, null);
  const before: Box = isOther || box.validity === 0 ? { ...box, isWhole: false, modseq: 0, nextUid: 0 } : box;
  // What changes while it is being taken in, over a kill too, is asked for from where it was begun.
  if (before !== box) await note(round, box, { ...state, nextUid: 0, messages: 0 }, false);
  const known = new Map((await readPlaced(round, box)).map(({ uid, message }) => [uid, messageId(message)]));
  const isChanged = state.modseq === 0 || before.modseq !== state.modseq;
  const changes = isChanged && known.size > 0 ? await imap.changes(before.modseq) : { flags: [], gone: null };
  let fresh: readonly number[];
  if (onlyGrew(before, state) && !isOther)
    fresh =
      state.nextUid === before.nextUid ? [] : (await uidsFrom(round, before.nextUid)).filter((uid) => !known.has(uid));
  else {
    const found = (await told(round, before, state, known, changes.gone)) ?? (await compared(round, known));
    if (found.gone.length > 0) await loosen(round, box, found.gone);
    for (const uid of found.gone) known.delete(uid);
    fresh = found.fresh;
  }
  await changedFlags(round, before, known, changes.flags);
  const modseq = before !== box ? state.modseq : before.modseq;
  return { box: { ...before, validity: state.validity, modseq }, state, fresh };
}

const looseIds = async ({ db, account }: Round): Promise<Set<number>> =>
  new Set(
    (
      await db.sql<{ message: number }[]>`
        select message from placement where person = ${account.person} and account = ${account.id} and uid is null`
    ).map(({ message }) => message),
  );

/** Those of some messages that another program has put into a folder that is left alone: they are here only. */
async function inLeftAlone(round: Round, gone: readonly MessageId[]): Promise<Set<number>> {
  const { db, account, imap } = round;
  const rows = await db.sql<{ id: number; messageId: string }[]>`
    select id, message_id as "messageId" from message
    where person = ${account.person} and id = any(${listOf(gone)}::text::bigint[]) and message_id is not null`;
  const found = new Set<number>();
  for (const path of account.without) {
    const isThere = await imap.select(path).catch((error: unknown) => {
      // A folder that is no more, or may not be opened, holds nothing that could be found.
      if (error instanceof Refused) return null;
      throw error;
    });
    if (isThere === null) continue;
    for (const { id, messageId: sought } of rows)
      if (!found.has(id) && (await imap.withMessageId(sought)).length > 0) found.add(id);
  }
  return found;
}

/** What is nowhere on the server any more goes to the trash here: nothing vanishes. */
async function missed(round: Round, gone: readonly MessageId[]): Promise<void> {
  const { db, account } = round;
  if (gone.length === 0) return;
  const leftAlone = account.without.length > 0 ? await inLeftAlone(round, gone) : new Set<number>();
  await inTurn(db, account.person, async (tx, seq) => {
    const { folders } = await readDirectory(tx, account.person);
    const trash = folderFor({ folders, labels: [], markers: [] }, "trash");
    const states = await readStates(tx, account.person, gone);
    await tx`
      delete from placement p using unnest(${listOf(gone)}::text::bigint[]) as w(message)
      where p.person = ${account.person} and p.uid is null and p.message = w.message`;
    await tx`
      delete from due d using unnest(${listOf(gone)}::text::bigint[]) as w(message)
      where d.person = ${account.person} and d.message = w.message`;
    await endComing(tx, account.person);
    const edits = new Map<MessageId, readonly MessageEdit[]>();
    if (trash)
      for (const [id, state] of states)
        if (state.folder !== trash.id && !leftAlone.has(id))
          edits.set(id, [{ kind: "folder", before: state.folder, after: trash.id }]);
    if (edits.size > 0)
      await enter(tx, round, seq, changeOfMessages(edits), {
        name: `Deleted at ${account.name}`,
        about: plural(edits.size, "message"),
      });
  });
}

/** One mailbox that may be listed and not opened keeps no other from being looked at. */
const lookIfOpen = (round: Round, listed: Listed): Promise<Looked | null> =>
  look(round, listed).catch((error: unknown) => {
    if (error instanceof Refused) return null;
    throw error;
  });

async function take(round: Round, { box, state, fresh }: Looked, taking: Taking): Promise<void> {
  if (fresh.length > 0) await takeFresh(round, box, fresh, taking);
  await note(round, box, state, true);
}

const sumOf = (counts: readonly number[]): number => counts.reduce((sum, count) => sum + count, 0);

/**
 * Takes in everything that changed on the server since the last round.
 * @returns how many messages were new
 */
export async function pull(round: Round, boxes: readonly Listed[]): Promise<number> {
  // What was looked for a whole round long, and is in no mailbox, has gone.
  const before = await looseIds(round);
  const taking: Taking = { done: 0, total: 0 };
  let rest = boxes;
  // Nothing can have moved out of mailboxes that were never taken in: somebody who waits for the inbox has it first.
  if (boxes.every(({ box }) => !box.isWhole) && boxes.length > 0) {
    // Threads that read come to be while the line is waited for.
    void round.parse([]);
    const inbox = await lookIfOpen(round, boxes[0]!);
    rest = boxes.slice(1);
    taking.total = (inbox?.fresh.length ?? 0) + sumOf(rest.map(({ state }) => state?.messages ?? 0));
    if (inbox) await take(round, inbox, taking);
  }
  const looked: Looked[] = [];
  for (const listed of rest) {
    const found = await lookIfOpen(round, listed);
    if (found) looked.push(found);
  }
  taking.total = taking.done + sumOf(looked.map(({ fresh }) => fresh.length));
  for (const found of looked) await take(round, found, taking);
  const still = await looseIds(round);
  await missed(round, [...before].filter((id) => still.has(id)).map(messageId));
  return taking.done;
}
