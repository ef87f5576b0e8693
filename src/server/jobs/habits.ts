import { EMPTY, load, ofState, type Change } from "@/core/change";
import type { FolderId, MessageId, PersonId } from "@/core/id";
import { READING } from "@/core/ledger";
import { folderFor } from "@/core/place";
import { patternsOf, sequencesEnding, type Handled } from "@/core/rule";
import { readDirectory } from "../run";
import { listOf } from "../store";
import type { Database, Transaction } from "../db";

/** Reads the ledger for what recurs by hand: incrementally, each entry once. */

/** Entries read in one transaction. */
const PIECE = 100;
/** What is done to more messages at once says nothing of each. */
const MOST_MESSAGES = 200;
/** So many entries before a piece may begin a sequence that ends in it. */
const BEFORE = 4;

interface Row {
  readonly seq: number;
  readonly kind: "run" | "undo" | "redo";
  readonly macro: number | null;
  readonly at: number;
  /** null where it was on too many messages to say anything of each. */
  readonly change: unknown;
}

/** What a person has decided, which having read something is not. */
const byHand = (tx: Transaction, person: PersonId) => tx`
  l.person = ${person} and l.actor = 'person' and l.kind in ('run', 'undo', 'redo') and l.cause is distinct from ${READING}`;
const rowOf = (tx: Transaction) => tx`
  l.seq, l.kind, l.macro, (extract(epoch from l.at) * 1000)::float8 as at,
  case when l.messages <= ${MOST_MESSAGES} then l.change end as change`;
const changeIn = ({ change }: Row): Change => (change === null ? EMPTY : load(change));

/** Where a run put messages; for an undo, where the run had put those that are put back. */
function filedBy(change: Change, isUndo: boolean): Map<MessageId, FolderId> {
  const filed = new Map<MessageId, FolderId>();
  for (const [message, edits] of change.messages)
    for (const edit of edits) if (edit.kind === "folder") filed.set(message, isUndo ? edit.before : edit.after);
  return filed;
}

/** Which messages an entry changed the state of, as one text. */
const onOf = ({ messages }: Change): string =>
  [...messages]
    .filter(([, edits]) => edits.some(ofState))
    .map(([id]) => id)
    .sort((a, b) => a - b)
    .join(" ");

/** The conditions each message's mail meets. */
async function readPatterns(
  tx: Transaction,
  person: PersonId,
  ids: readonly MessageId[],
): Promise<Map<number, string[]>> {
  const rows = await tx<{ id: number; from: string; list: string; via: string; subject: string }[]>`
    select m.id, lower(m.from_address) as from, m.list, m.via, m.subject
    from unnest(${listOf(ids)}::text::bigint[]) n join message m on m.person = ${person} and m.id = n`;
  return new Map(
    rows.map(({ id, via, ...rest }) => [id, patternsOf({ ...rest, via: via.split(/[\s,]+/).filter(Boolean) })]),
  );
}

interface Tally {
  readonly narrow: string;
  readonly folder: number;
  readonly macro: number;
  messages: number;
  last: number;
}

/** What a piece of the ledger adds to what is known. */
class Tallies {
  readonly filed = new Map<string, Tally>();
  readonly sequences = new Map<string, number>();

  file(narrow: string, folder: FolderId, macro: number | null, message: MessageId, by: 1 | -1): void {
    const key = `${folder} ${macro ?? 0} ${narrow}`;
    const tally = this.filed.get(key) ?? { narrow, folder, macro: macro ?? 0, messages: 0, last: message };
    tally.messages += by;
    tally.last = Math.max(tally.last, message);
    this.filed.set(key, tally);
  }

  follow(macros: readonly number[]): void {
    const key = macros.join(" ");
    this.sequences.set(key, (this.sequences.get(key) ?? 0) + 1);
  }

  async write(tx: Transaction, person: PersonId): Promise<void> {
    const tallies = [...this.filed.values()].filter(({ messages }) => messages !== 0);
    await tx`
      insert into habit (person, narrow, folder, macro, messages, last)
      select ${person}, h.* from jsonb_to_recordset(${JSON.stringify(tallies)}::text::jsonb)
        as h(narrow text, folder int, macro int, messages int, last bigint)
      on conflict (person, narrow, folder, macro) do update
        set messages = habit.messages + excluded.messages, last = greatest(habit.last, excluded.last)`;
    // What was there before somebody came, and is taken back now, is less than nothing.
    await tx`delete from habit where person = ${person} and messages <= 0`;
    const sequences = [...this.sequences].map(([macros, times]) => ({ macros, times }));
    await tx`
      insert into habit_sequence (person, macros, times)
      select ${person}, s.* from jsonb_to_recordset(${JSON.stringify(sequences)}::text::jsonb) as s(macros text, times int)
      on conflict (person, macros) do update set times = habit_sequence.times + excluded.times`;
  }
}

/** The last runs before a piece, oldest first: a sequence may begin with them. */
async function readBefore(tx: Transaction, person: PersonId, seq: number): Promise<Row[]> {
  const rows = await tx<Row[]>`
    select ${rowOf(tx)} from ledger l where ${byHand(tx, person)} and l.seq <= ${seq}
    order by l.seq desc limit ${BEFORE}`;
  return rows.reverse();
}

/** The runs that may begin a sequence once an entry is there too; taking something back ends all of them. */
function afterEntry(before: readonly Handled[], { kind, macro, at }: Row, change: Change): Handled[] {
  const on = onOf(change);
  if (kind !== "run" || macro === null || on === "") return [];
  return [...before, { macro, atMs: at, on }].slice(-BEFORE);
}

async function readPiece(tx: Transaction, person: PersonId): Promise<number> {
  await tx`insert into habit_mark (person, through) values (${person}, 0) on conflict do nothing`;
  const [mark] = await tx<{ through: number }[]>`select through from habit_mark where person = ${person} for update`;
  const [newest] = await tx<{ seq: number }[]>`
    select coalesce(max(seq), 0) as seq from ledger where person = ${person}`;
  const rows = await tx<Row[]>`
    select ${rowOf(tx)}
    from ledger l left join ledger o on o.person = l.person and o.run = l.of and l.kind <> 'run'
    where ${byHand(tx, person)} and l.seq > ${mark!.through} and l.seq <= ${newest!.seq}
      and coalesce(o.actor, 'person') = 'person'
    order by l.seq limit ${PIECE}`;
  // What others than the person wrote is read past, once.
  const through = rows.length < PIECE ? newest!.seq : rows.at(-1)!.seq;
  await tx`update habit_mark set through = ${through} where person = ${person}`;
  if (rows.length === 0) return 0;
  const inbox = folderFor(await readDirectory(tx, person), "inbox")?.id;
  const changes = rows.map((row) => ({ row, change: changeIn(row) }));
  const ids = [...new Set(changes.flatMap(({ change }) => [...filedBy(change, false).keys()]))];
  const patterns = await readPatterns(tx, person, ids);
  const tallies = new Tallies();
  let before: Handled[] = [];
  for (const row of await readBefore(tx, person, mark!.through)) before = afterEntry(before, row, changeIn(row));
  for (const { row, change } of changes) {
    const next = afterEntry(before, row, change);
    const now = next.at(-1);
    if (now) for (const macros of sequencesEnding(before, now)) tallies.follow(macros);
    before = next;
    const isUndo = row.kind === "undo";
    for (const [message, folder] of filedBy(change, isUndo)) {
      // Back in the inbox it is decided about no more.
      if (folder === inbox) continue;
      for (const narrow of patterns.get(message) ?? [])
        tallies.file(narrow, folder, row.macro, message, isUndo ? -1 : 1);
    }
  }
  await tallies.write(tx, person);
  return rows.length;
}

/**
 * Reads what everybody has decided since it was read last.
 * @returns how many entries
 */
export async function noticeHabits(db: Database, isOver: () => boolean = () => false): Promise<number> {
  const people = await db.sql<{ person: PersonId }[]>`
    select p.id as person from person p left join habit_mark h on h.person = p.id
    where exists (select from ledger l where l.person = p.id and l.seq > coalesce(h.through, 0) and l.actor = 'person'
      and l.kind in ('run', 'undo', 'redo'))`;
  let count = 0;
  for (const { person } of people)
    for (let more = 1; more > 0 && !isOver();)
      count += more = (await db.sql.begin((tx) => readPiece(tx as Transaction, person))) as number;
  return count;
}
