import type { MessageEdit } from "@/core/change";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import { DraftRow } from "@/core/macro";
import { asksForWords, loadNarrow, matcher, readNarrow, TRAIT, type StoredNarrow } from "@/core/narrow";
import { folderFor } from "@/core/place";
import { opensTogether, type Week } from "@/core/when";
import type { Queryable, Transaction } from "../db";
import { listOf, readStates } from "../store";
import { readNames } from "./directory";
import { readBodies, readFacts } from "./facts";
import { whoIs, type Who } from "./turn";
import { writeUnattended, type Said } from "./unattended";

/** Mail that waits for its hours: it is deferred until they open, and comes in then as if it had just arrived. */

const CAUSE = "hours";
const HELD: Said = { actor: "rule", cause: CAUSE, name: "Waits for its hours" };
const LET_IN: Said = { actor: "clock", cause: CAUSE, name: "Let in: its hours have begun" };

interface Row {
  readonly narrow: StoredNarrow;
  readonly through: StoredNarrow | null;
  readonly week: Week;
}

/** When each of some messages is to come in, by the hours there are; those that may now are missing. */
async function opensFor(
  tx: Transaction,
  { person, zone }: Who,
  ids: readonly MessageId[],
  now: Date,
): Promise<Map<MessageId, Date>> {
  const opens = new Map<MessageId, Date>();
  const rows = await tx<Row[]>`
    select narrow, through, week from hours where person = ${person} and is_on and deleted_at is null order by id`;
  if (rows.length === 0 || ids.length === 0) return opens;
  const { directory, nameOf } = await readNames(tx, person);
  // A condition that names what is no more holds nothing back.
  const read = (stored: StoredNarrow) => {
    const checked = readNarrow(loadNarrow(stored, nameOf), { directory, now, zone });
    return checked.ok ? checked.test : null;
  };
  const all = rows.flatMap(({ narrow, through, week }) => {
    const test = read(narrow);
    return test === null ? [] : [{ test, past: through === null ? null : read(through), week }];
  });
  const words = all.some(({ test, past }) => asksForWords(test) || (past !== null && asksForWords(past)));
  const facts = await readFacts(tx, person, ids, words ? await readBodies(tx, person, ids) : null);
  const states = await readStates(tx, person, ids);
  const hours = all.map(({ test, past, week }) => {
    const [means, lets] = [matcher(test), past === null ? () => false : matcher(past)];
    return { holds: (row: DraftRow) => means(row) && !lets(row), week };
  });
  const inbox = folderFor(directory, "inbox")?.id;
  const row = new DraftRow();
  const times = new Map<string, Date | null>();
  for (const id of ids) {
    const [state, fact] = [states.get(id), facts.get(id)];
    if (!state || !fact || state.folder !== inbox || (fact.traits & TRAIT.mine) !== 0) continue;
    [row.draft, row.facts] = [state, fact];
    const holding = hours.flatMap(({ holds }, i) => (holds(row) ? [i] : []));
    const key = holding.join(" ");
    // Of thousands that come in at once most wait for the same hours.
    const at = times.has(key)
      ? times.get(key)!
      : opensTogether(
          holding.map((i) => hours[i]!.week),
          zone,
          now,
        );
    times.set(key, at);
    if (at !== null && at > now) opens.set(id, at);
  }
  return opens;
}

/** Writes until when messages wait. @param until null where they come in */
async function write(
  tx: Transaction,
  { person }: Who,
  until: ReadonlyMap<MessageId, Date | null>,
  said: Said,
): Promise<number> {
  const ids = [...until.keys()];
  if (ids.length === 0) return 0;
  const waits = ids.filter((id) => until.get(id) !== null);
  const times = waits.map((id) => until.get(id)!.toISOString());
  await tx`
    insert into hours_held (person, message, until)
    select ${person}, h.* from unnest(${listOf(waits)}::text::bigint[], ${times}::text[]::timestamptz[]) h
    on conflict (person, message) do update set until = excluded.until`;
  const editsOf = (before: string | null, id: MessageId): MessageEdit[] => {
    const after = until.get(id)?.toISOString() ?? null;
    return before === after ? [] : [{ kind: "defer", before, after }];
  };
  const states = await readStates(tx, person, ids);
  return writeUnattended(tx, person, states, ({ defer }, id) => editsOf(defer, id), said);
}

/** Holds back what of new mail may not come in now, in the transaction that takes it in. @returns how many messages */
export async function holdBack(
  tx: Transaction,
  person: PersonId,
  arrived: readonly number[],
  now: Date,
): Promise<number> {
  const [any] = await tx`select from hours where person = ${person} and is_on and deleted_at is null limit 1`;
  if (!any) return 0;
  const who = await whoIs(tx, person);
  const ids = arrived.map(messageId);
  const opens = await opensFor(tx, who, ids, now);
  // What a rule has deferred comes back when it says.
  const states = await readStates(tx, person, [...opens.keys()]);
  for (const [id, { defer }] of states) if (defer !== null) opens.delete(id);
  return write(tx, who, opens, HELD);
}

/** Messages that still wait for their hours: deferred until then and not otherwise since. */
const held = (sql: Queryable, { person }: Who) => sql<{ id: number; until: number }[]>`
  select h.message as id, (extract(epoch from h.until) * 1000)::float8 as until from hours_held h
    join message_state s on s.person = h.person and s.message = h.message and s.defer_until = h.until
  where h.person = ${person} order by h.until, h.message`;

/** How many wait, and when the first of them come in. */
export async function waitingForHours(sql: Queryable, who: Who): Promise<{ waiting: number; opens: string | null }> {
  const rows = await held(sql, who);
  return { waiting: rows.length, opens: rows[0] ? new Date(rows[0].until).toISOString() : null };
}

/** Lets in what has waited until now. Whoever looks second finds nothing left. @returns how many messages */
export async function letInDue(tx: Transaction, who: Who, now: Date): Promise<number> {
  const due = (await held(tx, who)).filter(({ until }) => until <= now.getTime()).map(({ id }) => messageId(id));
  const count = await write(tx, who, new Map(due.map((id) => [id, null])), LET_IN);
  await tx`delete from hours_held where person = ${who.person} and until <= ${now.toISOString()}`;
  return count;
}

/** Lets in all that waits, because the person wants it now: taken back like any run. @returns how many messages */
export async function letInNow(tx: Transaction, who: Who): Promise<number> {
  const ids = (await held(tx, who)).map(({ id }) => messageId(id));
  return write(tx, who, new Map(ids.map((id) => [id, null])), {
    actor: "person",
    cause: null,
    name: "Let in what waits for its hours",
  });
}

/** After hours were changed: what waits does so by the new ones. */
export async function waitAnew(tx: Transaction, who: Who, now: Date): Promise<void> {
  const ids = (await held(tx, who)).map(({ id }) => messageId(id));
  // As they were when they came in: not deferred.
  const opens = await opensFor(tx, who, ids, now);
  await write(tx, who, new Map(ids.map((id) => [id, opens.get(id) ?? null])), { ...HELD, name: "Hours were changed" });
}
