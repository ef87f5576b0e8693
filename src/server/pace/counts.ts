import type { PersonId } from "@/core/id";
import { PREPARED, type Transaction } from "../db";

/**
 * What is counted of stays. Counts only add up, so that a stay that ends or never was takes away what it added, and
 * a count of all stays gives the same.
 */
export const PACE = {
  /** Stays by the day they began; `at` is the day they ended, or OPEN. */
  stays: 0,
  /** Those that began, by day; `at` is the hour. */
  came: 1,
  /** Those that the person ended. */
  decided: 2,
  /** Those that rules, servers or the clock ended. */
  filed: 3,
  /** Those that the person ended, by how long they were: `at` is a step of core/pace. */
  waits: 4,
  /** Those that began, by the first day of their BLOCK; `at` is who sent them, a row of pace_source. */
  senders: 5,
} as const;

/** Days that are counted together where single ones would be nearly as many as the stays. */
export const BLOCK = 28;

/** The day that a stay ends on which has not. */
export const OPEN = 2_147_483_647;

/** The steps of `stepOf` in core/pace, of w.minutes. */
export const STEP = `case when w.minutes >= 1 then least(165, 1 + floor(ln(w.minutes) / ln(2::float8) * 8 + 1e-9))::int else 0 end`;

const dayOf = (column: string) => `((s.${column} at time zone $2)::date - date '1970-01-01')`;
const hourOf = (column: string) => `extract(hour from s.${column} at time zone $2)::int`;

/** Which count it is, of a person's. */
interface Key {
  readonly kind: number;
  readonly day: number;
  readonly place: number;
  readonly account: number;
  readonly at: number;
}

/**
 * Adds what stays count, or takes it away; says which counts are none after that.
 * @param stays a query for rows of pace_stay; $1 is the person, $2 the zone
 */
function counting(stays: string, by: 1 | -1): string {
  return `
    with s as (${stays}),
    parts as (
      select ${PACE.stays} as kind, s.place, s.account, ${dayOf("came")} as day,
        coalesce(${dayOf("gone")}, ${OPEN}) as at from s
      union all select ${PACE.came}, s.place, s.account, ${dayOf("came")}, ${hourOf("came")} from s
      union all select ${PACE.senders}, s.place, s.account, floor(${dayOf("came")} / ${BLOCK}.0)::int * ${BLOCK}, s.source from s
      union all select case when s.by_person then ${PACE.decided} else ${PACE.filed} end, s.place, s.account,
        ${dayOf("gone")}, ${hourOf("gone")} from s where s.gone is not null
      union all select ${PACE.waits}, s.place, s.account, ${dayOf("gone")}, ${STEP}
        from s, lateral (select date_part('epoch', s.gone - s.came) / 60 as minutes) w
        where s.gone is not null and s.by_person),
    written as (insert into pace_count as c (person, kind, day, place, account, at, count)
      select $1, kind, day, place, account, at, ${by} * count(*) from parts group by kind, day, place, account, at
      on conflict (person, kind, day, place, account, at) do update set count = c.count + excluded.count
      returning kind, day, place, account, at, count)
    select kind, day, place, account, at from written where count = 0`;
}

/** Those of them that are none still: a person has tens of thousands of counts, and a decision touches ten. */
async function dropZeros(tx: Transaction, person: PersonId, keys: readonly Key[]): Promise<void> {
  if (keys.length === 0) return;
  await tx.unsafe(
    `delete from pace_count c
     using jsonb_to_recordset($2::text::jsonb) as k(kind smallint, day int, place int, account int, at int)
     where c.person = $1 and c.kind = k.kind and c.day = k.day and c.place = k.place and c.account = k.account
       and c.at = k.at and c.count = 0`,
    [person, JSON.stringify(keys)],
    PREPARED,
  );
}

/** Counts all stays there are anew. */
export async function recount(tx: Transaction, person: PersonId, zone: string): Promise<void> {
  await tx`delete from pace_count where person = ${person}`;
  await tx.unsafe(counting("select * from pace_stay where person = $1", 1), [person, zone]);
}

/** A stay as it is written: times in milliseconds. */
export interface StayRow {
  readonly message: number;
  readonly nth: number;
  readonly place: number;
  readonly account: number;
  readonly source: number;
  readonly came: number;
  readonly came_by: string | null;
  readonly gone: number | null;
  readonly gone_by: string | null;
  readonly by_person: boolean;
}

/** Stays in one statement. */
const AT_ONCE = 20_000;

function* piecesOf<T>(all: readonly T[]): Generator<string> {
  for (let at = 0; at < all.length; at += AT_ONCE) yield JSON.stringify(all.slice(at, at + AT_ONCE));
}

const DELETED = `
  delete from pace_stay where person = $1 and message in (select value::bigint from jsonb_array_elements_text($3::text::jsonb))
  returning *`;
const INSERTED = `
  insert into pace_stay (person, message, nth, place, account, source, came, came_by, gone, gone_by, by_person)
  select $1, r.message, r.nth, r.place, r.account, r.source, to_timestamp(r.came / 1000.0), r.came_by,
    to_timestamp(r.gone / 1000.0), r.gone_by, r.by_person
  from jsonb_to_recordset($3::text::jsonb) as r(message bigint, nth smallint, place int, account int, source int,
    came float8, came_by uuid, gone float8, gone_by uuid, by_person boolean)
  returning *`;

/** Writes stays instead of those the messages had, and counts what is different. */
export async function replaceStays(
  tx: Transaction,
  person: PersonId,
  zone: string,
  messages: readonly number[],
  stays: readonly StayRow[],
): Promise<void> {
  if (messages.length === 0) return;
  const none: Key[] = [];
  const count = async (sql: string, by: 1 | -1, piece: string) =>
    none.push(...(await tx.unsafe<Key[]>(counting(sql, by), [person, zone, piece], PREPARED)));
  for (const piece of piecesOf(messages)) await count(DELETED, -1, piece);
  for (const piece of piecesOf(stays)) await count(INSERTED, 1, piece);
  await dropZeros(tx, person, none);
}
