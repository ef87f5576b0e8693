import { messageId, type MessageId } from "@/core/id";
import { sharedOf, wishKey, wishOf, type Shared, type Wish } from "@/core/sync";
import { TRAIT } from "@/core/narrow";
import type { Directory } from "@/core/place";
import { Refused, setOf } from "../../gateway";
import { listOf, readStates } from "../../store";
import {
  boxesOf,
  directoryOf,
  place,
  PLACED,
  say,
  select,
  wordsIn,
  type Box,
  type Placed,
  type Round,
} from "./context";
import { mailboxFor } from "./mailboxes";

/** Makes the server hold what is here: equal wishes of a mailbox are one command, however many messages they are on. */

const AT_ONCE = 20_000;
/** Servers take lines of 8000 bytes (RFC 7162, section 4). */
const LONGEST_SET = 7000;
/** A server that refuses so many one by one refuses them all. */
const MOST_REFUSED = 20;

interface Due extends Placed {
  readonly writes: number;
  readonly answeredHere: boolean;
}

interface Wanted {
  readonly due: Due;
  /** null for a message that is no more. */
  readonly ours: Shared | null;
  readonly wish: Wish;
}

const readDue = ({ db, account }: Round): Promise<Due[]> =>
  db.sql<Due[]>`
    select ${db.sql.unsafe(PLACED)}, d.writes, coalesce(m.traits & ${TRAIT.answered} <> 0, false) as "answeredHere"
    from due d join placement p on p.person = d.person and p.message = d.message
      left join message m on m.person = d.person and m.id = d.message
    where d.person = ${account.person} and p.account = ${account.id} and p.uid is not null
    order by p.mailbox, p.uid limit ${AT_ONCE}`;

/** Whether something is to be pushed. */
export async function hasDue({ db, account }: Pick<Round, "db" | "account">): Promise<boolean> {
  const [row] = await db.sql<{ is: boolean }[]>`
    select exists (select from due d
      -- One by one: while many come in, of a table that has just begun to grow nothing is known, and all of it was read.
      cross join lateral (select from placement p where p.person = d.person and p.message = d.message
        and p.account = ${account.id} and p.uid is not null limit 1) as there
      where d.person = ${account.person}) as is`;
  return row?.is ?? false;
}

/** What has been seen to is due no more, unless it was written again meanwhile. */
const settle = ({ db, account }: Round, due: readonly Due[]) =>
  db.sql`
    delete from due d using jsonb_to_recordset(${JSON.stringify(due.map(({ message, writes }) => ({ message, writes })))}::text::jsonb)
      as r(message bigint, writes int)
    where d.person = ${account.person} and d.message = r.message and d.writes = r.writes`;

async function wishes(round: Round, due: readonly Due[], directory: Directory): Promise<Wanted[]> {
  const ids = due.map(({ message }) => messageId(message));
  const states = await readStates(round.db.sql, round.account.person, ids);
  return due.flatMap((one) => {
    const state = states.get(one.message);
    const ours = state ? sharedOf(state, one.answeredHere, wordsIn(round, directory, one.mailbox)) : null;
    const wish = wishOf(ours, one);
    return wish ? [{ due: one, ours, wish }] : [];
  });
}

/** UIDs as few sets that fit on a line. */
function chunks(wanted: readonly Wanted[]): Wanted[][] {
  if (wanted.length < 2 || setOf(wanted.map(({ due }) => due.uid!)).length <= LONGEST_SET) return [[...wanted]];
  const half = wanted.length >> 1;
  return [...chunks(wanted.slice(0, half)), ...chunks(wanted.slice(half))];
}

/** Notes what the server has now. */
async function record(
  round: Round,
  done: readonly Wanted[],
  where: (uid: number) => Pick<Placed, "mailbox" | "uid">,
): Promise<void> {
  const placed = done.flatMap(({ due, ours }) => (ours ? [{ ...ours, message: due.message, ...where(due.uid!) }] : []));
  const gone = done.filter(({ ours }) => ours === null).map(({ due }) => due.message);
  await round.db.sql.begin(async (tx) => {
    await place(tx, round, placed);
    await tx`
      delete from placement p using unnest(${listOf(gone)}::text::bigint[]) as w(message)
      where p.person = ${round.account.person} and p.message = w.message`;
  });
  await settle(
    round,
    done.map(({ due }) => due),
  );
}

/** Flags that were changed are agreed on at once: what follows may be refused. */
const flagged = (round: Round, done: readonly Wanted[]) =>
  round.db.sql.begin((tx) =>
    place(
      tx,
      round,
      done.flatMap(({ due, ours }) => (ours ? [{ ...due, ...ours, folder: due.folder }] : [])),
    ),
  );

/** Of messages that another program moved or deleted at this moment nothing was done: the next round finds them. */
function present(round: Round, wanted: readonly Wanted[], there: ReadonlySet<number>): Wanted[] {
  if (wanted.some(({ due }) => !there.has(due.uid!))) round.again();
  return wanted.filter(({ due }) => there.has(due.uid!));
}

async function pushSet(round: Round, asked: readonly Wanted[], into: Box | null): Promise<void> {
  const { imap } = round;
  const { add, remove, gone } = asked[0]!.wish;
  const { mailbox } = asked[0]!.due;
  const uidsOf = (wanted: readonly Wanted[]) => wanted.map(({ due }) => due.uid!);
  if (gone) {
    await imap.remove(uidsOf(asked));
    return record(round, asked, (uid) => ({ mailbox, uid }));
  }
  let wanted = [...asked];
  if (add.length + remove.length > 0) {
    await imap.store(uidsOf(wanted), add, remove);
    wanted = present(round, wanted, await imap.existing(uidsOf(wanted)));
    if (into) await flagged(round, wanted);
  }
  if (wanted.length === 0) return;
  if (!into) return record(round, wanted, (uid) => ({ mailbox, uid }));
  const { moved, left } = await imap.move(uidsOf(wanted), into.path);
  const done = wanted.filter(({ due }) => moved.has(due.uid!));
  if (done.length > 0) await record(round, done, (uid) => ({ mailbox: into.id, uid: moved.get(uid) ?? null }));
  present(round, wanted, new Set([...moved.keys(), ...left]));
  if (left.size > 0) throw new Refused("The server does not move it.");
}

/** One message that is refused keeps no other from being pushed: halves are tried until it is alone. */
async function pushParts(
  round: Round,
  wanted: readonly Wanted[],
  into: Box | null,
  refused: { count: number },
): Promise<void> {
  try {
    await pushSet(round, wanted, into);
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    if (wanted.length === 1) {
      await refuse(round, wanted[0]!.due, error.message);
      if (++refused.count >= MOST_REFUSED) throw error;
      return;
    }
    // What of it was done is not done again: what is left is read anew.
    const half = wanted.length >> 1;
    for (const part of [wanted.slice(0, half), wanted.slice(half)]) {
      const left = await stillDue(round, part);
      if (left.length > 0) await pushParts(round, left, into, refused);
    }
  }
}

async function stillDue({ db, account }: Round, wanted: readonly Wanted[]): Promise<Wanted[]> {
  const rows = await db.sql<{ message: number; uid: number | null }[]>`
    select p.message, p.uid from unnest(${listOf(wanted.map(({ due }) => due.message))}::text::bigint[]) as w(message)
      join placement p on p.person = ${account.person} and p.message = w.message`;
  const uids = new Map(rows.map(({ message, uid }) => [message, uid]));
  return wanted.filter(({ due }) => uids.get(due.message) === due.uid);
}

/** What the server does not do is not asked again until it is decided anew; the account's page says so. */
async function refuse({ db, account, ...round }: Round, due: Due, why: string): Promise<void> {
  await db.sql`update placement set refused = ${why} where person = ${account.person} and message = ${due.message}`;
  await settle({ db, account, ...round }, [due]);
}

async function pushGroup(
  round: Round,
  wanted: readonly Wanted[],
  directory: Directory,
  boxes: readonly Box[],
): Promise<void> {
  const { due, wish } = wanted[0]!;
  const box = boxes.find(({ id }) => id === due.mailbox);
  if (!box) return;
  const into = wish.folder === null ? null : await mailboxFor(round, wish.folder, directory, boxes);
  // A place that is here only: of what else is wanted, the server hears.
  if (wish.folder !== null && !into && wish.add.length + wish.remove.length === 0)
    return void (await settle(
      round,
      wanted.map((one) => one.due),
    ));
  await select(round, box);
  const refused = { count: 0 };
  for (const part of chunks(wanted)) await pushParts(round, part, into, refused);
}

/** Equal wishes of a mailbox together. */
function grouped(wanted: readonly Wanted[]): Wanted[][] {
  const groups = new Map<string, Wanted[]>();
  for (const one of wanted) {
    const key = `${one.due.mailbox}\n${wishKey(one.wish)}`;
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return [...groups.values()];
}

const PUSHING = "putting what was decided on the server";

/** Pushes everything that is due. @throws GatewayAway, or Refused where the server does nothing that is wanted */
export async function pushDue(round: Round): Promise<void> {
  for (let more = true; more;) {
    const due = await readDue(round);
    more = due.length === AT_ONCE;
    if (due.length === 0) return;
    const directory = await directoryOf(round);
    const wanted = await wishes(round, due, directory);
    const wished = new Set<MessageId>(wanted.map((one) => one.due.message));
    await settle(
      round,
      due.filter(({ message }) => !wished.has(message)),
    );
    if (wanted.length > 0) await say(round, PUSHING, 0, wanted.length);
    let done = 0;
    for (const group of grouped(wanted)) {
      await pushGroup(round, group, directory, await boxesOf(round));
      await say(round, PUSHING, (done += group.length), wanted.length);
    }
  }
}
