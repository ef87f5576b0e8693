import { load, type Change } from "@/core/change";
import type { PersonId } from "@/core/id";
import type { Actor, EntryKind } from "@/core/ledger";
import { follow, ofPace, type Moment, type Stay } from "@/core/pace";
import { PREPARED, type Database, type Transaction } from "../db";
import { listOf } from "../store";
import { recount, replaceStays, type StayRow } from "./counts";

/** Keeps the stays of messages behind the ledger: each entry is read once, and costs the runs that write it nothing. */

/** Entries read at a time. */
const AT_ONCE = 2000;
/** Tries to read entries and messages at one moment, before writers are made to wait. */
const TRIES = 4;

interface EntryRow {
  readonly seq: number;
  readonly run: string;
  readonly kind: EntryKind | "arrival";
  readonly actor: Actor;
  readonly of: string | null;
  readonly at: number;
  readonly change: unknown;
}

/** What entries say of messages: what was written to each, and which came in. */
interface News {
  readonly moments: Map<number, Moment[]>;
  readonly touched: Set<number>;
}

function note({ moments, touched }: News, { kind, change, run, of, actor, at }: EntryRow): void {
  if (kind === "arrival") {
    for (const id of (change as { arrived: number[] }).arrived) touched.add(id);
    return;
  }
  const written: Change = load(change);
  // Thousands of messages share a few lists of edits.
  const known = new Map<readonly unknown[], Moment | null>();
  for (const [message, edits] of written.messages) {
    let moment = known.get(edits);
    if (moment === undefined) {
      const kept = edits.filter(ofPace);
      moment = kept.length === 0 ? null : { run: (kind === "run" ? null : of) ?? run, kind, actor, at, edits: kept };
      known.set(edits, moment);
    }
    if (!moment) continue;
    touched.add(message);
    const list = moments.get(message);
    if (list) list.push(moment);
    else moments.set(message, [moment]);
  }
}

interface MessageRow {
  readonly id: number;
  /** null for one that is no more. */
  readonly written: number | null;
  readonly account: number | null;
  readonly source: string | null;
  readonly folder: number | null;
  readonly deferred: boolean | null;
}

/** Who sent it, as the screen of senders has it. @param m the message */
const SOURCE = `case when m.list <> '' then 'list ' || lower(m.list) else 'sender ' || lower(m.from_address) end`;
/** Mail in the inbox waits, and in folders of one's own. */
const WAITING = `f.role is null or f.role = 'inbox'`;

const readMessages = (tx: Transaction, person: PersonId, ids: Iterable<number>) =>
  tx.unsafe<MessageRow[]>(
    `select n as id, (extract(epoch from least(m.date, now())) * 1000)::float8 as written, m.account, ${SOURCE} as source,
       s.folder, s.defer_until is not null as deferred
     from unnest($2::text::bigint[]) n
       left join message m on m.person = $1 and m.id = n
       left join message_state s on s.person = $1 and s.message = n`,
    [person, listOf(ids)],
    PREPARED,
  );

type KnownStay = StayRow & { readonly person: number };

async function readStays(tx: Transaction, person: PersonId, ids: Iterable<number>): Promise<Map<number, KnownStay[]>> {
  const rows = await tx<KnownStay[]>`
    select message, nth, place, account, source, (extract(epoch from came) * 1000)::float8 as came, came_by,
      (extract(epoch from gone) * 1000)::float8 as gone, gone_by, by_person
    from unnest(${listOf(ids)}::text::bigint[]) n join pace_stay p on p.person = ${person} and p.message = n
    order by message, nth`;
  const out = new Map<number, KnownStay[]>();
  for (const row of rows) out.set(row.message, [...(out.get(row.message) ?? []), row]);
  return out;
}

/** The numbers of sources, which are given to those that are new. */
async function numberSources(
  tx: Transaction,
  person: PersonId,
  names: readonly string[],
): Promise<Map<string, number>> {
  const list = JSON.stringify([...new Set(names)]);
  await tx`
    insert into pace_source (person, source) select ${person}, jsonb_array_elements_text(${list}::text::jsonb)
    on conflict do nothing`;
  const rows = await tx<{ id: number; source: string }[]>`
    select id, source from jsonb_array_elements_text(${list}::text::jsonb) n
      join pace_source p on p.person = ${person} and p.source = n`;
  return new Map(rows.map(({ id, source }) => [source, id]));
}

const toStay = (row: StayRow): Stay => ({
  place: row.place,
  came: row.came,
  cameBy: row.came_by,
  left: row.gone,
  leftBy: row.gone_by,
  byPerson: row.by_person,
});

const isSame = (a: Stay, b: Stay) => a.came === b.came && a.left === b.left && a.place === b.place;

/** Entries after one, and the messages they speak of as they were after the last of them. */
async function readPiece(
  tx: Transaction,
  person: PersonId,
  through: number,
): Promise<{ count: number; last: number; news: News; messages: readonly MessageRow[] }> {
  const news: News = { moments: new Map(), touched: new Set() };
  let [count, last] = [0, through];
  const readOn = async (): Promise<boolean> => {
    const rows = await tx<EntryRow[]>`
      select seq, run, kind, actor, of, (extract(epoch from at) * 1000)::float8 as at, change from ledger
      where person = ${person} and seq > ${last} order by seq limit ${AT_ONCE}`;
    for (const row of rows) note(news, row);
    count += rows.length;
    last = rows.at(-1)?.seq ?? last;
    return rows.length > 0;
  };
  for (let tries = 1; ; tries++) {
    // Who writes takes a number first, so that nobody writes while this row is held.
    if (tries === TRIES) await tx`select from person where id = ${person} for update`;
    while (await readOn());
    const messages = await readMessages(tx, person, news.touched);
    const [newest] = await tx<{ seq: number }[]>`
      select coalesce(max(seq), 0) as seq from ledger where person = ${person}`;
    if (newest!.seq <= last) return { count, last, news, messages };
  }
}

async function catchUp(tx: Transaction, person: PersonId, zone: string, through: number): Promise<number> {
  const { count, last, news, messages } = await readPiece(tx, person, through);
  if (count === 0) return 0;
  const waiting = await tx<{ id: number }[]>`
    select id from folder f where person = ${person} and (${tx.unsafe(WAITING)})`;
  const places = new Set(waiting.map(({ id }) => id));
  const known = await readStays(tx, person, news.touched);
  const sources = await numberSources(
    tx,
    person,
    messages.flatMap(({ source }) => (source === null ? [] : [source])),
  );
  const changed: number[] = [];
  const stays: StayRow[] = [];
  for (const { id, written, account, source, folder, deferred } of messages) {
    const before = known.get(id) ?? [];
    const now = folder === null ? null : { folder, deferred: deferred === true };
    // Of a message that came and went unseen nothing can be told.
    if (before.length === 0 && written === null) continue;
    const old = before.map(toStay);
    const after = follow(old, news.moments.get(id) ?? [], now, (place) => places.has(place), written ?? 0);
    // A message may turn out to be on a server, too.
    const isElsewhere = account !== null && before.some((row) => row.account !== account);
    if (!isElsewhere && after.length === old.length && after.every((stay, i) => isSame(stay, old[i]!))) continue;
    changed.push(id);
    after.forEach((stay, nth) =>
      stays.push({
        message: id,
        nth,
        place: stay.place,
        account: account ?? before[0]!.account,
        source: source === null ? before[0]!.source : sources.get(source)!,
        came: stay.came,
        came_by: stay.cameBy,
        gone: stay.left,
        gone_by: stay.leftBy,
        by_person: stay.byPerson,
      }),
    );
  }
  await replaceStays(tx, person, zone, changed, stays);
  await tx`update pace_mark set through = ${last} where person = ${person}`;
  return count;
}

/** Of a ledger that is there already, entries are read that changed so many messages. */
const MOST_READ = 1_000_000;

/**
 * Begins with what the ledger still holds, and with what waits. What comes between the two is read the next time, and
 * changes nothing of what is the same then.
 */
async function begin(tx: Transaction, person: PersonId, zone: string): Promise<void> {
  const [first] = await tx<{ seq: number; at: number }[]>`
    select seq, (extract(epoch from at) * 1000)::float8 as at from (
      select seq, at, sum(changed) over (order by seq desc) as sum from ledger where person = ${person} and kind <> 'arrival') l
    where sum <= ${MOST_READ} order by seq limit 1`;
  const [newest] = await tx<{ seq: number }[]>`
    select coalesce(max(seq), 0) as seq from ledger where person = ${person}`;
  const through = first ? first.seq - 1 : newest!.seq;
  await tx`
    update pace_mark set through = ${through}, since = coalesce(to_timestamp(${first?.at ?? null}::float8 / 1000), now())
    where person = ${person}`;
  if (first) await catchUp(tx, person, zone, through);
  await tx.unsafe(
    `with here as materialized (
       select m.id, m.account, least(m.date, now()) as came, s.folder, ${SOURCE} as source
       from message_state s join message m on m.person = s.person and m.id = s.message
         join folder f on f.person = s.person and f.id = s.folder
       where s.person = $1 and s.defer_until is null and (${WAITING})
         and not exists (select from pace_stay p where p.person = $1 and p.message = m.id)),
     named as (
       insert into pace_source (person, source) select distinct $1::bigint, source from here
       on conflict (person, source) do update set source = excluded.source returning id, source)
     insert into pace_stay (person, message, nth, place, account, source, came, by_person)
     select $1, here.id, 0, here.folder, here.account, named.id, here.came, false from here join named using (source)`,
    [person],
  );
}

/**
 * Reads what was written since it was read last, so that figures tell all of it.
 * @param patienceMs how long to wait for another who is at it; for ever where it is left out
 * @throws an error of which `isBusy` is true
 * @returns how many entries
 */
export function keepPace(db: Database, person: PersonId, zone: string, patienceMs = 0): Promise<number> {
  return db.sql.begin(async (transaction) => {
    const tx = transaction as Transaction;
    await tx`select set_config('lock_timeout', ${String(patienceMs)}, true)`;
    await tx`insert into pace_mark (person, zone) values (${person}, ${zone}) on conflict do nothing`;
    const [mark] = await tx<{ through: number | null; zone: string }[]>`
      select through, zone from pace_mark where person = ${person} for update`;
    const { through } = mark!;
    if (through === null) await begin(tx, person, zone);
    if (through === null || mark!.zone !== zone) {
      await tx`update pace_mark set zone = ${zone} where person = ${person}`;
      await recount(tx, person, zone);
    }
    return through === null ? 0 : catchUp(tx, person, zone, through);
  }) as Promise<number>;
}

/** For what is written into the ledger about days that are over: figures are made anew from all of it. */
export async function beginAgain(tx: Transaction, person: PersonId): Promise<void> {
  for (const table of ["pace_stay", "pace_count", "pace_mark"])
    await tx`delete from ${tx(table)} where person = ${person}`;
}

/** Whether somebody else was still counting: SQLSTATE lock_not_available. */
export const isBusy = (error: unknown): boolean => (error as { code?: unknown }).code === "55P03";

/** The same for everybody of whom there is something new. */
export async function keepPaces(db: Database, isOver: () => boolean = () => false): Promise<number> {
  const people = await db.sql<{ person: PersonId; zone: string }[]>`
    select p.id as person, p.zone from person p left join pace_mark m on m.person = p.id
    where m.through is null or m.zone <> p.zone or exists (select from ledger l where l.person = p.id and l.seq > m.through)`;
  let count = 0;
  for (const { person, zone } of people) if (!isOver()) count += await keepPace(db, person, zone);
  return count;
}
