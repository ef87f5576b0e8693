import { Refused, type RemoteMessage } from "../../gateway";
import { inTurn } from "../../run";
import { countComing, hashesOf, isWaitedFor, nextComing, postponeComing, type Coming } from "../../store";
import { putSources } from "../put-sources";
import { boxesOf, say, select, type Box, type Round } from "./context";
import { ahead, FIRST_ASKED_BYTES, nextAskedBytes, oneAtATime, type Line } from "./pipeline";
import { hasDue, pushDue } from "./push";

/**
 * Brings the sources of messages of which only the headers are here, behind everything else: first what somebody
 * waits for, then the newest. It gives way to whatever else is to be done at the account, and goes on after it.
 */

/** So many are looked up at a time: more than can be under way. */
const LOOKED_UP = 2000;
const PIECE = 500;
/** What the server did not give is asked for again after it was looked at again where it is. */
const AGAIN_MS = 2 * 60_000;

interface Piece {
  readonly asked: readonly Coming[];
  readonly came: readonly { readonly of: Coming; readonly raw: Uint8Array }[];
}

/** The first of those that are to be asked for, as far as one command reaches. @param most bytes of it, but for the first */
function firstPiece(queue: readonly Coming[], most: number): Coming[] {
  const [first] = queue;
  const piece: Coming[] = [];
  let bytes = 0;
  for (const one of queue) {
    if (one.mailbox !== first!.mailbox || one.isWanted !== first!.isWanted) continue;
    if (piece.length > 0 && (piece.length >= PIECE || bytes + one.size > most)) break;
    piece.push(one);
    bytes += one.size;
  }
  return piece;
}

/** Sources of the open mailbox; what the server refuses of a set is left out of it. */
async function messagesOf({ imap }: Pick<Round, "imap">, uids: readonly number[]): Promise<RemoteMessage[]> {
  try {
    return await imap.messages(uids);
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    if (uids.length === 1) return [];
  }
  const half = uids.length >> 1;
  return [...(await messagesOf({ imap }, uids.slice(0, half))), ...(await messagesOf({ imap }, uids.slice(half)))];
}

/** What was done on the line that all of it goes over. */
interface Done {
  /** Which mailbox is open; null where that is not known. */
  box: number | null;
  /** Whether messages may be elsewhere than they were when they were looked up. */
  hasMoved: boolean;
}

/** @returns whether the mailbox can be opened: one that cannot keeps no other's sources from coming */
async function open(round: Round, box: Box, done: Done): Promise<boolean> {
  if (done.box === box.id) return true;
  done.box = null;
  try {
    await select(round, box);
  } catch (error) {
    if (error instanceof Refused) return false;
    throw error;
  }
  done.box = box.id;
  return true;
}

async function* fetched(
  round: Round,
  boxes: ReadonlyMap<number, Box>,
  line: Line,
  done: Done,
  isOver: () => boolean,
): AsyncGenerator<Piece> {
  const { db, account, now } = round;
  const asked = new Set<number>();
  let queue: Coming[] = [];
  let most = FIRST_ASKED_BYTES;
  while (!isOver()) {
    if (queue.length === 0 || done.hasMoved || (await isWaitedFor(db.sql, account.person, account.id))) {
      done.hasMoved = false;
      const next = await nextComing(db.sql, account.person, account.id, LOOKED_UP, now);
      queue = next.filter(({ content }) => !asked.has(content));
    }
    if (queue.length === 0) return;
    const piece = firstPiece(queue, most);
    for (const { content } of piece) asked.add(content);
    queue = queue.filter(({ content }) => !asked.has(content));
    const box = boxes.get(piece[0]!.mailbox);
    const messages = await line(async () => {
      if (!box || !(await open(round, box, done))) return [];
      const begun = performance.now();
      const uids = piece.map(({ uid }) => uid);
      const came = await messagesOf(round, uids);
      most = nextAskedBytes(
        most,
        came.reduce((sum, { raw }) => sum + raw.length, 0),
        performance.now() - begun,
      );
      return came;
    });
    const byUid = new Map(piece.map((one) => [one.uid, one]));
    yield {
      asked: piece,
      came: messages.flatMap(({ uid, raw }) => {
        const of = byUid.get(uid);
        return of ? [{ of, raw }] : [];
      }),
    };
  }
}

async function* read(round: Round, fetching: AsyncGenerator<Piece>) {
  for await (const { asked, came } of fetching) {
    const items = await round.words(came.map(({ raw }) => raw));
    const sources = came.map(({ of, raw }, i) => ({
      of,
      ...items[i]!,
      content: of.content,
      raw,
      ...hashesOf(raw),
    }));
    // UIDs that mean something else by now name other messages.
    yield { asked, sources: sources.filter(({ of, parsed }) => of.messageId === parsed.messageId) };
  }
}

/** @param isOver whether the account has something else to be done */
export async function takeSources(round: Round, isOver: () => boolean): Promise<void> {
  const { db, account, now } = round;
  const total = await countComing(db.sql, account.person, account.id);
  if (total === 0) return;
  const boxes = new Map((await boxesOf(round)).map((box) => [box.id, box]));
  const line = oneAtATime();
  const done: Done = { box: null, hasMoved: false };
  let count = 0;
  let isLookedFor = false;
  const coming = ahead(read(round, ahead(fetched(round, boxes, line, done, () => isLookedFor || isOver()))));
  for await (const { asked, sources } of coming) {
    if (sources.length > 0) await inTurn(db, account.person, (tx, seq) => putSources(tx, account.person, seq, sources));
    const here = new Set(sources.map(({ content }) => content));
    const left = asked.flatMap(({ content }) => (here.has(content) ? [] : [content]));
    if (left.length > 0) await postponeComing(db.sql, account.person, left, new Date(now.getTime() + AGAIN_MS));
    count += asked.length;
    isLookedFor = await say(round, "bringing texts", count, total);
    if (await hasDue(round))
      await line(async () => {
        await pushDue(round);
        Object.assign(done, { box: null, hasMoved: true });
      });
  }
}

/** Whether sources are to be asked for. */
export const hasComing = async ({ db, account, now }: Pick<Round, "db" | "account" | "now">): Promise<boolean> =>
  (await nextComing(db.sql, account.person, account.id, 1, now)).length > 0;
