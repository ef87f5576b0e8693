import { createHash } from "node:crypto";
import { changeOfMessages, type MessageEdit } from "@/core/change";
import { messageId, type MessageId } from "@/core/id";
import { TRAIT } from "@/core/narrow";
import { flagsSeen, sharedOf, wishOf, type Words } from "@/core/sync";
import type { Directory } from "@/core/place";
import type { Transaction } from "../../db";
import type { RemoteMessage } from "../../gateway";
import { readDirectory } from "../../run";
import { asKnown, noteSizes, readStates, reserve, takeTurn } from "../../store";
import type { ParsedItem } from "../../parse";
import { intoOf, takeIn, type Good } from "../take-in";
import { claim, enter, noteDue, place, wordsIn, type Box, type Placed, type Round } from "./context";

/** Messages that came over the line are put where they belong. */

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

/** A message as it came over the line: with its source, or by its headers alone. */
export interface Fetched extends RemoteMessage {
  /** Of headers alone: how many bytes the source has. */
  readonly coming?: number;
}

/** What stands for the hash of a source that has not come: no other message's. */
const standIn = ({ id, validity }: Box, uid: number): Uint8Array =>
  createHash("sha256").update(`on the server ${id} ${validity} ${uid}`).digest();

/** What a source says is less than what the server knows of the message. */
function known(
  item: ParsedItem,
  { raw, flags, uid, coming }: Fetched,
  box: Box,
  directory: Directory,
  words: Words,
): Good {
  const seen = flagsSeen(flags, words);
  const named = (word: string) => directory.labels.filter(({ id }) => words.labels.get(id) === word);
  const marker = [...words.markers].find(([, word]) => seen.words.includes(word))?.[0];
  return {
    ...item,
    ...(coming === undefined ? {} : { hash: standIn(box, uid), alike: [] }),
    raw,
    coming,
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
export async function settlePiece(
  tx: Transaction,
  round: Round,
  box: Box,
  seq: number,
  piece: readonly Fetched[],
  items: readonly ParsedItem[],
): Promise<void> {
  const { person } = round.account;
  const [directory, into] = await Promise.all([
    readDirectory(tx, person),
    intoOf(tx, person, box.folder, round.account.id, box.isWhole),
  ]);
  const words = wordsIn(round, directory, box.id);
  const goods = await asKnown(
    tx,
    person,
    items.map((item, i) => known(item, piece[i]!, box, directory, words)),
  );
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
  const own: { readonly message: MessageId; readonly size: number }[] = [];
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
      own.push({ message: messageId(known), size: remote.raw.length });
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
  if (own.length > 0) {
    // What came from a file before may have the size it has there, and would not be found again where it is moved to.
    await noteSizes(tx, person, own);
    const messages = own.map(({ message }) => message);
    await claim(tx, round, await takeTurn(tx, person), messages);
  }
  await place(tx, round, placed);
  await noteDue(
    tx,
    round,
    placed.map(({ message }) => message),
  );
}
