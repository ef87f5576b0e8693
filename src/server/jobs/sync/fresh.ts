import type { RemoteHead } from "../../gateway";
import { inTurn } from "../../run";
import { listOf } from "../../store";
import { adopt, apart } from "./adopt";
import { say, select, type Box, type Round } from "./context";
import { ahead, oneAtATime, pieces, type Line } from "./pipeline";
import { hasDue, pushDue } from "./push";
import { settlePiece, type Fetched } from "./settle";

/**
 * Takes in what is on the server and not here, the newest first: new mail with its source, what was there before by
 * its headers, so that all of it can be decided on while the sources come behind.
 */

/** Heads are asked for so many at a time; the first of them while somebody waits. */
const FIRST_HEADS = 100;
const HEADS = 1000;

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
  total: number;
}

/** A piece of what is not here yet, as it came over the line. */
interface Piece {
  readonly messages: readonly Fetched[];
  /** How many were asked for. */
  readonly asked: number;
}

const newestFirst = (a: RemoteHead, b: RemoteHead): number => b.uid - a.uid;

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
  /** Those of some that are not known to be here. */
  const look = async <H extends RemoteHead>(
    some: readonly number[],
    ask: (uids: readonly number[]) => Promise<H[]>,
  ) => {
    const wanted = await missing(round, box, some);
    const heads = wanted.length === 0 ? [] : await ask(wanted);
    const left = await adopt(round, box, heads);
    taking.done += heads.length - left.length;
    return left.sort(newestFirst);
  };
  async function* withSources(heads: readonly RemoteHead[], isFirst: boolean): AsyncGenerator<Piece> {
    for (const piece of pieces(heads, isFirst))
      yield { messages: await line(() => imap.messages(piece.map(({ uid }) => uid))), asked: piece.length };
  }
  for (let from = 0, next = 0; from < newest.length; from = next) {
    const isFirst = from === 0;
    next = from + (isFirst && !box.isWhole ? FIRST_HEADS : HEADS);
    const some = newest.slice(from, next);
    if (box.isWhole) yield* withSources(await line(() => look(some, imap.heads)), isFirst);
    else {
      const { fresh, maybe } = await line(async () => {
        const left = await look(some, imap.headers);
        const parts = await apart(round, box, left);
        taking.done += left.length - parts.fresh.length - parts.maybe.length;
        return parts;
      });
      if (fresh.length > 0)
        yield { messages: fresh.map(({ size, ...head }) => ({ ...head, coming: size })), asked: fresh.length };
      yield* withSources(maybe, isFirst);
    }
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
