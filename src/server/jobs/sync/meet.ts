import { randomUUID } from "node:crypto";
import { changeOfMessages, type MessageEdit } from "@/core/change";
import { messageId, runId, type MessageId } from "@/core/id";
import { TRAIT } from "@/core/narrow";
import { editsTo, flagsSeen, inbound, sharedOf, wishOf } from "@/core/sync";
import { plural } from "@/core/text";
import type { Transaction } from "../../db";
import { inTurn, readDirectory } from "../../run";
import { appendArrival, listOf, markAnswered, readStates, takeTurn } from "../../store";
import { enter, noteDue, place, PLACED, wordsIn, type Box, type Placed, type Round } from "./context";

/** What the server says of messages that are here meets what was decided here. */

export interface Said {
  readonly message: MessageId;
  readonly uid: number;
  readonly flags: readonly string[];
}

const AT_ONCE = 5000;

interface Known extends Placed {
  readonly answeredHere: boolean;
}

async function noteAnswers(
  tx: Transaction,
  { account: { person } }: Round,
  seq: number,
  messages: readonly MessageId[],
) {
  const fresh: MessageId[] = [];
  for (const message of messages) for (const id of await markAnswered(tx, person, message)) fresh.push(messageId(id));
  if (fresh.length === 0) return seq;
  await appendArrival(tx, person, seq, runId(randomUUID()), fresh);
  return takeTurn(tx, person);
}

const isSame = (a: Placed, b: Placed): boolean =>
  a.uid === b.uid && a.mailbox === b.mailbox && a.folder === b.folder && wishOf(a, b) === null && wishOf(b, a) === null;

async function meetSome(tx: Transaction, round: Round, box: Box, first: number, said: readonly Said[]): Promise<void> {
  const { person } = round.account;
  const ids = said.map(({ message }) => message);
  const rows = await tx<Known[]>`
    select ${tx.unsafe(PLACED)}, m.traits & ${TRAIT.answered} <> 0 as "answeredHere"
    from unnest(${listOf(ids)}::text::bigint[]) as w(message)
      join placement p on p.person = ${person} and p.message = w.message
      join message m on m.person = p.person and m.id = p.message`;
  const bases = new Map(rows.map((row) => [row.message, row]));
  const directory = await readDirectory(tx, person);
  const words = wordsIn(round, directory, box.id);
  const states = await readStates(
    tx,
    person,
    ids.filter((id) => bases.has(id)),
  );
  const edits = new Map<MessageId, MessageEdit[]>();
  const placed: Placed[] = [];
  const answered: MessageId[] = [];
  const due: MessageId[] = [];
  let won = 0;
  for (const { message, uid, flags } of said) {
    const base = bases.get(message);
    const state = states.get(message);
    // What is no more here is to be ended there: the place is all that is needed for that.
    if (!base) continue;
    const theirs: Placed = { ...flagsSeen(flags, words), folder: box.folder, message, mailbox: box.id, uid };
    // What this app put there itself comes back as news: nothing of it is.
    if (isSame(base, theirs)) continue;
    const ours = state ? sharedOf(state, base.answeredHere, words) : null;
    const met = ours ? inbound(base, theirs, ours) : null;
    placed.push(theirs);
    if (!state || !met) {
      due.push(message);
      continue;
    }
    const needed = editsTo(state, met.ours, words);
    if (needed.length > 0) edits.set(message, needed);
    if (theirs.answered && !base.answeredHere) answered.push(message);
    if (met.won) won++;
    if (wishOf(met.ours, met.base)) due.push(message);
  }
  const seq = await noteAnswers(tx, round, first, answered);
  await place(tx, round, placed);
  const name = `Changed at ${round.account.name}`;
  const stands = won === 0 ? "" : `; where ${plural(won, "message")} had been moved here too, that stands`;
  if (edits.size > 0)
    await enter(tx, round, seq, changeOfMessages(edits), { name, about: plural(edits.size, "message") + stands });
  if (due.length > 0) await noteDue(tx, round, due);
}

/** Brings together what the server says of messages of a mailbox and what was decided about them here. */
export async function meetFlags(round: Round, box: Box, said: readonly Said[]): Promise<void> {
  for (let at = 0; at < said.length; at += AT_ONCE) {
    const some = said.slice(at, at + AT_ONCE);
    await inTurn(round.db, round.account.person, (tx, seq) => meetSome(tx, round, box, seq, some));
  }
}
