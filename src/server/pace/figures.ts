import type { PersonId } from "@/core/id";
import { stepOf, waitWithin, type Day, type HourCount, type Stays, type Waits } from "@/core/pace";
import type { Queryable } from "../db";
import { BLOCK, OPEN, PACE, STEP } from "./counts";

/** What is asked about: a stretch of whole days by the person's clock, one place, and one account or all. */
export interface Scope {
  readonly person: PersonId;
  readonly zone: string;
  readonly from: Day;
  readonly to: Day;
  readonly place: number;
  readonly account: number | null;
}

type Kind = (typeof PACE)[keyof typeof PACE];

const counted = (sql: Queryable, { person, place, account }: Scope, kind: Kind) => sql`
  pace_count c where c.person = ${person} and c.kind = ${kind} and c.place = ${place}
    and (${account}::int is null or c.account = ${account})`;

/** All stays that were not over before the first of the days. */
export async function readStays(sql: Queryable, scope: Scope): Promise<Stays[]> {
  const rows = await sql<{ came: number; left: number; count: number }[]>`
    select day as came, at as left, sum(count)::int as count from ${counted(sql, scope, PACE.stays)}
      and day <= ${scope.to} and at > ${scope.from} group by day, at`;
  return rows.map((row) => ({ ...row, left: row.left === OPEN ? null : row.left }));
}

/** What came, was decided or was filed, by day and hour. */
export const readHours = async (
  sql: Queryable,
  scope: Scope,
  kind: "came" | "decided" | "filed",
): Promise<HourCount[]> => sql<HourCount[]>`
  select day, at as hour, sum(count)::int as count from ${counted(sql, scope, PACE[kind])}
    and day between ${scope.from} and ${scope.to} group by day, at`;

export interface Told {
  readonly count: number;
  readonly median: number | null;
  readonly most: number | null;
}

const NINE_OF_TEN = 0.9;

export const told = (waits: Waits): Told => ({
  count: [...waits.values()].reduce((sum, count) => sum + count, 0),
  median: waitWithin(waits, 0.5),
  most: waitWithin(waits, NINE_OF_TEN),
});

/** How long it was until the person decided. */
export async function readWaits(sql: Queryable, scope: Scope): Promise<Told> {
  const rows = await sql<{ step: number; count: number }[]>`
    select at as step, sum(count)::int as count from ${counted(sql, scope, PACE.waits)}
      and day between ${scope.from} and ${scope.to} group by at`;
  return told(new Map(rows.map(({ step, count }) => [step, count])));
}

/** A day's beginning, as an instant. */
const dayIn = (sql: Queryable, day: Day, zone: string) => sql`
  ((date '1970-01-01' + ${day}::int)::timestamp at time zone ${zone})`;

/**
 * How long it was until the person answered: from the last message of somebody else in the thread to what they wrote
 * next. A letter to somebody who had not written answers nothing.
 */
export async function readAnswers(sql: Queryable, scope: Scope, mine: number): Promise<Told> {
  const { person, zone, from, to, account } = scope;
  const rows = await sql<{ ms: number }[]>`
    select (extract(epoch from m.date - b.date) * 1000)::float8 as ms
    from message m join lateral (
      select date, traits from message o where o.person = m.person and o.thread = m.thread and o.date < m.date
      order by date desc limit 1) b on b.traits & ${mine} = 0
    where m.person = ${person} and m.date >= ${dayIn(sql, from, zone)} and m.date < ${dayIn(sql, to + 1, zone)}
      and m.traits & ${mine} <> 0 and (${account}::int is null or m.account = ${account})`;
  const waits = new Map<number, number>();
  for (const { ms } of rows) waits.set(stepOf(ms), (waits.get(stepOf(ms)) ?? 0) + 1);
  return told(waits);
}

export interface SourceRow {
  readonly source: string;
  readonly came: number;
  readonly decided: number;
  readonly open: number;
  readonly unread: number;
  readonly name: string;
  readonly waits: Told;
}

/** Of more nobody reads. */
const MOST_SOURCES = 30;

/** Of whom most came. Whole blocks of days are counted already; the days before and behind them are looked at. */
async function mostFrom(sql: Queryable, scope: Scope): Promise<{ id: number; came: number }[]> {
  const { person, zone, from, to, place, account } = scope;
  const first = Math.ceil(from / BLOCK) * BLOCK;
  const last = Math.floor((to + 1) / BLOCK) * BLOCK;
  const [before, behind] = first < last ? [first, last] : [to + 1, to + 1];
  const between = (begin: Day, end: Day) => sql`
    select p.source, 1 as count from pace_stay p
    where p.person = ${person} and p.place = ${place} and (${account}::int is null or p.account = ${account})
      and p.came >= ${dayIn(sql, begin, zone)} and p.came < ${dayIn(sql, end, zone)}`;
  return sql<{ id: number; came: number }[]>`
    select source as id, sum(count)::int as came from (
      ${between(from, before)} union all ${between(behind, to + 1)}
      union all select at, count from ${counted(sql, scope, PACE.senders)} and day >= ${before} and day < ${behind}) c
    group by source order by came desc, source limit ${MOST_SOURCES}`;
}

/** Who fills a place, with how long theirs waited: what is dear is asked only of those of whom most came. */
export async function readSources(sql: Queryable, scope: Scope, read: number): Promise<SourceRow[]> {
  const { person, zone, from, to, place, account } = scope;
  const [begins, ends] = [dayIn(sql, from, zone), dayIn(sql, to + 1, zone)];
  const most = await mostFrom(sql, scope);
  // Written out, so that the planner sees how much of all mail is theirs.
  const theirs = sql`
    p.person = ${person} and p.place = ${place} and (${account}::int is null or p.account = ${account})
      and p.source in (${sql.unsafe(most.map(({ id }) => id).join() || "null")})`;
  const [stays, unread] = await Promise.all([
    // "offset 0", so that minutes are worked out once a stay, not at each mention of them.
    sql<{ id: number; step: number | null; count: number; open: number; newest: number }[]>`
      select id, case when w.minutes is not null then ${sql.unsafe(STEP)} end as step, count(*)::int as count,
        count(*) filter (where open)::int as open, max(message) as newest
      from (
        select p.source as id, p.message, p.gone is null as open,
          case when p.by_person and p.gone >= ${begins} and p.gone < ${ends}
            then date_part('epoch', p.gone - p.came) / 60 end as minutes
        from pace_stay p where ${theirs} offset 0) w
      group by 1, 2`,
    sql<{ id: number; count: number }[]>`
      select p.source as id, count(*) filter (where m.bits & ${read} = 0)::int as count
      from pace_stay p join message_state m on m.person = p.person and m.message = p.message
      where ${theirs} and p.came >= ${begins} and p.came < ${ends} and m.person = ${person} group by p.source`,
  ]);
  const rows = most.map(({ id, came }) => {
    const own = stays.filter((stay) => stay.id === id);
    const decided = own.flatMap(({ step, count }) => (step === null ? [] : [[step, count] as const]));
    return {
      id,
      came,
      decided: decided.reduce((sum, [, count]) => sum + count, 0),
      open: own.reduce((sum, { open }) => sum + open, 0),
      unread: unread.find((one) => one.id === id)?.count ?? 0,
      newest: Math.max(...own.map(({ newest }) => newest)),
      waits: told(new Map(decided)),
    };
  });
  const names = await sql<{ id: number; source: string; name: string }[]>`
    select s.id, s.source, coalesce(m.from_name, '') as name
    from jsonb_to_recordset(${JSON.stringify(rows)}::text::jsonb) as r(id int, newest bigint)
      join pace_source s on s.person = ${person} and s.id = r.id
      left join message m on m.person = ${person} and m.id = r.newest`;
  const nameOf = new Map(names.map((row) => [row.id, row]));
  return rows.map(({ id, newest: _, ...row }) => ({
    ...row,
    source: nameOf.get(id)!.source,
    name: nameOf.get(id)!.name,
  }));
}

export interface MacroRow {
  readonly macro: number | null;
  readonly name: string;
  readonly runs: number;
  readonly messages: number;
  readonly by_key: number;
  readonly by_swipe: number;
  /** What its newest run did. */
  readonly steps: unknown;
}

/** What the person ran, as far as it stands. @param reading the cause of runs that decide nothing */
export const readMacroUse = async (
  sql: Queryable,
  { person, zone, from, to }: Scope,
  reading: string,
): Promise<MacroRow[]> => sql<MacroRow[]>`
  with used as (
    select macro, case when macro is null then name else '' end as unnamed, count(*)::int as runs, sum(changed)::int as messages,
      count(*) filter (where hand = 'key')::int as by_key, count(*) filter (where hand = 'swipe')::int as by_swipe,
      max(seq) as newest
    from ledger where person = ${person} and actor = 'person' and kind = 'run' and state <> 'undone' and changed > 0
      and cause is distinct from ${reading} and at >= ${dayIn(sql, from, zone)} and at < ${dayIn(sql, to + 1, zone)}
      and steps <> '[]'
    group by 1, 2)
  select u.macro, coalesce(m.name, l.name) as name, u.runs, u.messages, u.by_key, u.by_swipe, l.steps
  from used u join ledger l on l.person = ${person} and l.seq = u.newest
    left join macro m on m.person = ${person} and m.id = u.macro
  order by u.messages desc, u.runs desc limit ${MOST_SOURCES}`;

export interface PassesRow {
  readonly count: number;
  readonly decided: number;
  readonly skipped: number;
  readonly ms: number;
}

/** Passes that were begun in the time; of decisions those that stand. */
export async function readPasses(sql: Queryable, { person, zone, from, to }: Scope): Promise<PassesRow> {
  const [row] = await sql<PassesRow[]>`
    with p as (
      select id, cardinality(skipped) as skipped from pass
      where person = ${person} and started_at >= ${dayIn(sql, from, zone)} and started_at < ${dayIn(sql, to + 1, zone)}),
    d as (
      select count(distinct (d.pass, d.message))::int as decided, coalesce(sum(d.ms), 0)::float8 as ms
      from pass_deed d join p on p.id = d.pass left join ledger l on l.person = d.person and l.run = d.run
      where d.person = ${person} and l.state is distinct from 'undone')
    select count(p.id)::int as count, coalesce(sum(p.skipped), 0)::int as skipped, max(d.decided) as decided, max(d.ms) as ms
    from d left join p on true`;
  return { ...row!, decided: row!.decided ?? 0 };
}
