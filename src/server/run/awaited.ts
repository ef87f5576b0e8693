import type { MessageId, PersonId } from "@/core/id";
import { TRAIT } from "@/core/narrow";
import { folderFor, type Directory } from "@/core/place";
import type { Transaction } from "../db";
import { listOf, readStates } from "../store";
import { writeUnattended } from "./unattended";

/** Messages that wait for an answer: it comes, or it does not. */

/**
 * An answer clears what waited for it: of the threads of some new messages, those that came from somebody else.
 * What programs write by themselves is no answer.
 */
export async function noteAnswers(tx: Transaction, person: PersonId, arrived: readonly number[]): Promise<number> {
  // From the threads to their messages to their states: no index stands on what is decided about messages.
  const rows = await tx<{ message: MessageId }[]>`
    with new as materialized (select id from unnest(${listOf(arrived)}::text::bigint[]) id),
    met as materialized (
      select distinct n.thread from new join message n on n.person = ${person} and n.id = new.id
      where n.traits & ${TRAIT.mine | TRAIT.automatic | TRAIT.bounce} = 0),
    older as materialized (
      select m.id from met cross join lateral (
        select o.id from message o where o.person = ${person} and o.thread = met.thread offset 0) m
      where not exists (select from new where new.id = m.id))
    select s.message from older cross join lateral (
      select x.message, x.await_until from message_state x where x.person = ${person} and x.message = older.id offset 0) s
    where s.await_until is not null`;
  if (rows.length === 0) return 0;
  const states = await readStates(
    tx,
    person,
    rows.map(({ message }) => message),
  );
  return writeUnattended(
    tx,
    person,
    states,
    (state) => [
      { kind: "await", before: state.await, after: null },
      { kind: "back", before: state.back, after: null },
    ],
    { actor: "server", cause: "answer", name: "An answer came" },
  );
}

/** No answer came in time: the message is in the inbox again, marked by the time that has passed. */
export async function noteUnanswered(
  tx: Transaction,
  person: PersonId,
  directory: Directory,
  ids: readonly MessageId[],
): Promise<number> {
  const states = await readStates(tx, person, ids);
  const inbox = folderFor(directory, "inbox")?.id;
  const out = new Set<number>(
    directory.folders.filter(({ role }) => role === "trash" || role === "junk").map(({ id }) => id),
  );
  return writeUnattended(
    tx,
    person,
    states,
    (state) => [
      ...(inbox !== undefined && !out.has(state.folder)
        ? [{ kind: "folder", before: state.folder, after: inbox } as const]
        : []),
      { kind: "back", before: state.back, after: state.await },
    ],
    { actor: "clock", cause: "no answer", name: "No answer came" },
  );
}
