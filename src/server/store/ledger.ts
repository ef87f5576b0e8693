import { load, store, touchedBy, type Change, type Skip } from "@/core/change";
import { runId, type MessageId, type PersonId, type RunId } from "@/core/id";
import { READING, restorable, stateOf, type Actor, type EntryKind, type Hand, type RunState } from "@/core/ledger";
import type { Step } from "@/core/macro";
import type { Queryable, Transaction } from "../db";
import { boundsOf } from "./list";
import { tellOfEntry } from "./news";

export interface LedgerEntry {
  readonly seq: number;
  readonly id: RunId;
  readonly kind: EntryKind | "arrival";
  readonly actor: Actor;
  /** Which rule, account or timer made it; null for the person. */
  readonly cause: string | null;
  readonly of: RunId | null;
  readonly at: Date;
  readonly macro: number | null;
  readonly name: string;
  readonly steps: readonly Step[];
  /** What it was on, in words. */
  readonly about: string;
  /** How many messages it was run on. */
  readonly messages: number;
  /** How many of them it changed. */
  readonly changed: number;
  readonly state: RunState;
  /** How much was left alone. */
  readonly skipped: number;
  /** How many of the cells and things it wrote still stand and could be taken back. */
  readonly restorable: number;
}

/** What was left alone: cells that hold something else by now, or messages a step could do nothing for. */
export type LeftAlone = Skip | { readonly message: number; readonly step: number; readonly reason: string };

/** An entry as it is to be written. */
export type NewEntry = Pick<
  LedgerEntry,
  "seq" | "id" | "kind" | "actor" | "cause" | "of" | "macro" | "name" | "steps" | "about" | "messages"
> & {
  readonly skipped: readonly LeftAlone[];
  readonly hand?: Hand | undefined;
  /** When it was made, where that is not now. */
  readonly at?: Date;
};

/** Puts this person's writers in line until the transaction ends, and numbers the write. */
export async function takeTurn(tx: Transaction, person: PersonId): Promise<number> {
  const [row] = await tx<{ seq: number }[]>`update person set seq = seq + 1 where id = ${person} returning seq`;
  if (!row) throw new Error(`there is no person ${person}`);
  return row.seq;
}

/** Of what was left alone so many are kept one by one; how many they were is always exact. */
export const KEPT_SKIPS = 1000;

/** Entries read at a time in search of a message. */
const LOOKED_INTO = 200;

type Row = Omit<LedgerEntry, "at" | "id" | "of"> & { at: number; run: string; of: string | null };

const columns = (sql: Queryable) => sql`
  seq, run, kind, actor, cause, of, (extract(epoch from at) * 1000)::float8 as at, macro, name, steps, about, messages, changed,
  state, skipped_count as skipped, restorable`;

const entryOf = ({ run, of, at, ...row }: Row): LedgerEntry => ({
  ...row,
  id: runId(run),
  of: of === null ? null : runId(of),
  at: new Date(at),
});

/** Writes an entry with what was really written. @returns it as it reads from now on */
export async function appendEntry(
  tx: Transaction,
  person: PersonId,
  entry: NewEntry,
  change: Change,
): Promise<LedgerEntry> {
  const { skipped, hand, at = new Date(), ...rest } = entry;
  const touched = touchedBy(change);
  const [low, high] = boundsOf(touched);
  const made: LedgerEntry = {
    ...rest,
    at,
    changed: touched.size,
    state: "done",
    skipped: skipped.length,
    restorable: restorable(change),
  };
  await tx`
    insert into ledger (person, seq, run, kind, actor, cause, hand, of, at, macro, name, steps, about, messages, changed, state, change,
      skipped, skipped_count, restorable, lowest, highest)
    values (${person}, ${made.seq}, ${made.id}, ${made.kind}, ${made.actor}, ${made.cause}, ${hand ?? null}, ${made.of},
      ${made.at.toISOString()}, ${made.macro}, ${made.name}, ${JSON.stringify(made.steps)}::text::jsonb, ${made.about}, ${made.messages},
      ${made.changed}, 'done', ${JSON.stringify(store(change))}::text::jsonb,
      ${JSON.stringify(skipped.slice(0, KEPT_SKIPS))}::text::jsonb, ${made.skipped}, ${made.restorable},
      ${touched.size > 0 ? low : null}, ${touched.size > 0 ? high : null})`;
  await tellOfEntry(tx, person, made.seq);
  return made;
}

/** Tells windows of messages that came in. Their ids are in the row; there is nothing to undo. */
export async function appendArrival(
  tx: Transaction,
  person: PersonId,
  seq: number,
  id: RunId,
  messages: readonly number[],
): Promise<void> {
  await tx`
    insert into ledger (person, seq, run, kind, at, name, steps, messages, changed, state, change, skipped)
    values (${person}, ${seq}, ${id}, 'arrival', now(), 'arrival', '[]', ${messages.length}, 0, 'done',
      ${JSON.stringify({ arrived: messages })}::text::jsonb, '[]')`;
  await tellOfEntry(tx, person, seq);
}

/** The messages that came in by an arrival of that id; null where there was none. */
export async function arrivedBy(sql: Queryable, person: PersonId, id: RunId): Promise<readonly number[] | null> {
  const [row] = await sql<{ change: { arrived: number[] } }[]>`
    select change from ledger where person = ${person} and run = ${id} and kind = 'arrival'`;
  return row?.change.arrived ?? null;
}

/** The entry of that id. Arrivals are none: nobody did them. */
export async function findEntry(sql: Queryable, person: PersonId, id: RunId): Promise<LedgerEntry | null> {
  const [row] = await sql<Row[]>`
    select ${columns(sql)} from ledger where person = ${person} and run = ${id} and kind <> 'arrival'`;
  return row ? entryOf(row) : null;
}

/** The parts in which a run went on behind drafts, as far as they stand; the last first. */
export async function partsOf(sql: Queryable, person: PersonId, id: RunId): Promise<LedgerEntry[]> {
  const rows = await sql<Row[]>`
    select ${columns(sql)} from ledger
    where person = ${person} and of = ${id} and kind = 'run' and state <> 'undone' order by seq desc`;
  return rows.map(entryOf);
}

/** What a run wrote, and what of it still stands. */
export async function readRun(
  sql: Queryable,
  person: PersonId,
  id: RunId,
): Promise<{ written: Change; standing: Change }> {
  const [row] = await sql<{ change: unknown; standing: unknown }[]>`
    select change, standing from ledger where person = ${person} and run = ${id}`;
  const written = load(row?.change);
  return { written, standing: row?.standing ? load(row.standing) : written };
}

/** Notes what of a run still stands. @returns what has become of it */
export async function setStanding(
  tx: Transaction,
  person: PersonId,
  id: RunId,
  written: Change,
  standing: Change,
): Promise<RunState> {
  const state = stateOf(written, standing);
  await tx`update ledger set standing = ${JSON.stringify(store(standing))}::text::jsonb, state = ${state},
      restorable = ${restorable(standing)}
    where person = ${person} and run = ${id}`;
  return state;
}

/** What an entry left alone, as far as it is kept. */
export async function readSkipped(sql: Queryable, person: PersonId, id: RunId): Promise<readonly LeftAlone[]> {
  const [row] = await sql<{ skipped: LeftAlone[] }[]>`
    select skipped from ledger where person = ${person} and run = ${id}`;
  return row?.skipped ?? [];
}

export interface LedgerQuery {
  readonly limit: number;
  /**
   * Where it is given: of what rules, servers and the clock did only so many, beside the person's own up to the limit,
   * however much of it is newer.
   */
  readonly others?: number | undefined;
  /** Only entries older than this one. */
  readonly before?: number | undefined;
  readonly macro?: number | undefined;
  readonly message?: MessageId | undefined;
}

/**
 * The newest entries first. Arrivals are left out: they are for windows, not for people. So is what was only read, and
 * taken back of that, but for the history of one message.
 */
export async function listEntries(
  sql: Queryable,
  person: PersonId,
  { limit, others, before, macro, message }: LedgerQuery,
): Promise<LedgerEntry[]> {
  const older = (seq: number | undefined) => (seq === undefined ? sql`` : sql`and seq < ${seq}`);
  const ofMacro = macro === undefined ? sql`` : sql`and macro = ${macro}`;
  if (message === undefined) {
    const newest = (by: ReturnType<typeof older>, most: number) => sql<Row[]>`
      select ${columns(sql)} from ledger where person = ${person} and kind <> 'arrival'
        and cause is distinct from ${READING}
        and not exists (
          select from ledger read where read.person = ledger.person and read.run = ledger.of and read.cause = ${READING}
        )
        ${by} ${older(before)} ${ofMacro}
      order by seq desc limit ${most}`;
    if (others === undefined) return (await newest(sql``, limit)).map(entryOf);
    const parts = [newest(sql`and actor = 'person'`, limit), newest(sql`and actor <> 'person'`, others)];
    const rows = (await Promise.all(parts)).flat();
    return rows.map(entryOf).sort((a, b) => b.seq - a.seq);
  }
  // Changes are stored as lists of ids and edits: those whose ids may hold the message are looked into.
  const found: LedgerEntry[] = [];
  for (let from: number | undefined = before; found.length < limit;) {
    const rows: (Row & { change: unknown })[] = await sql<(Row & { change: unknown })[]>`
      select ${columns(sql)}, change from ledger
      where person = ${person} and kind <> 'arrival' and lowest <= ${message} and highest >= ${message}
        ${older(from)} ${ofMacro}
      order by seq desc limit ${LOOKED_INTO}`;
    for (const { change, ...row } of rows) if (touchedBy(load(change)).has(message)) found.push(entryOf(row));
    if (rows.length < LOOKED_INTO) break;
    from = rows.at(-1)!.seq;
  }
  return found.slice(0, limit);
}

/** Forgets what is older than that: it can no longer be taken back. @returns how many entries */
export async function forgetEntries(sql: Queryable, person: PersonId, before: Date): Promise<number> {
  const gone = await sql`delete from ledger where person = ${person} and at < ${before.toISOString()}::timestamptz`;
  return gone.count;
}

/** Everything written after that number, oldest first, with the changes in their stored form. */
export async function entriesAfter(
  sql: Queryable,
  person: PersonId,
  after: number,
  limit: number,
): Promise<{ entry: LedgerEntry; change: unknown }[]> {
  const rows = await sql<(Row & { change: unknown })[]>`
    select ${columns(sql)}, change from ledger where person = ${person} and seq > ${after} order by seq limit ${limit}`;
  return rows.map(({ change, ...row }) => ({ entry: entryOf(row), change }));
}

/** The number of the oldest write that is still known; null when there is none. */
export async function firstSeq(sql: Queryable, person: PersonId): Promise<number | null> {
  const [row] = await sql<{ seq: number | null }[]>`select min(seq) as seq from ledger where person = ${person}`;
  return row?.seq ?? null;
}

export async function currentSeq(sql: Queryable, person: PersonId): Promise<number> {
  const [row] = await sql<{ seq: number }[]>`select seq from person where id = ${person}`;
  return row?.seq ?? 0;
}
