import type { Between } from "@/core/api";
import { STATE_BIT } from "@/core/columns";
import { TRAIT, writeEquals, writeText } from "@/core/narrow";
import { conditionOf, messageJoin, searchContext } from "../search";
import type { Context } from "./context";
import { readTest } from "./messages";

interface Row {
  readonly month: string;
  readonly mine: boolean;
  readonly count: number;
  readonly last: number;
  readonly answered: number | null;
  readonly owed: number;
  readonly since: number | null;
  readonly awaited: number;
  readonly until: number | null;
  readonly name: string | null;
}

const iso = (ms: number | null) => (ms === null ? null : new Date(ms).toISOString());
const most = (all: readonly (number | null)[]): number | null =>
  all.reduce<number | null>((top, one) => (one === null || (top !== null && top > one) ? top : one), null);
const least = (all: readonly (number | null)[]): number | null => {
  const top = most(all.map((one) => (one === null ? null : -one)));
  return top === null ? null : -top;
};
const sum = (all: readonly number[]) => all.reduce((total, one) => total + one, 0);

/** What went to and fro with somebody, by months of the person's zone. */
export async function readBetween(context: Context, written: string): Promise<Between> {
  const { db, person, zone } = context;
  const address = written.trim().toLowerCase();
  // The words come first: their index finds the few messages that name the address at all.
  const [from, to] = [writeEquals("from", address), writeEquals("to", address)];
  const test = await readTest(context, `${writeText("text", "~", address)} & (${from} | ${to} & mine)`);
  const found = await searchContext(db.sql, person, test);
  const ms = (what: ReturnType<typeof db.sql>) => db.sql`(extract(epoch from ${what}) * 1000)::float8`;
  const rows = await db.sql<Row[]>`
    select to_char(date at time zone ${zone}, 'YYYY-MM') as month, mine, count(*)::int as count, ${ms(db.sql`max(date)`)} as last,
      ${ms(db.sql`max(date) filter (where answers)`)} as answered,
      count(*) filter (where owed)::int as owed, ${ms(db.sql`min(date) filter (where owed)`)} as since,
      (array_agg(name order by date desc) filter (where not mine and name <> ''))[1] as name,
      count(until)::int as awaited, ${ms(db.sql`min(until)`)} as until
    from (
      select m.date, m.from_name as name, m.traits & ${TRAIT.mine} <> 0 as mine, s.bits & ${STATE_BIT.owed} <> 0 as owed, s.await_until as until,
        exists (
          select 1 from message o where o.person = m.person and o.thread = m.thread and o.date < m.date
            and o.traits & ${TRAIT.mine} <> m.traits & ${TRAIT.mine}) as answers
      from ${messageJoin(db.sql, person)} and ${conditionOf(db.sql, found, test)}
        and not exists (
          select 1 from folder d where d.person = m.person and d.id = s.folder and d.role in ('drafts', 'outbox'))
    ) x group by 1, 2 order by 1 desc`;
  const theirs = rows.filter(({ mine }) => !mine);
  const mine = rows.filter((row) => row.mine);
  const of = (all: readonly Row[], field: "last" | "answered") => iso(most(all.map((row) => row[field])));
  const count = (all: readonly Row[], month: string) =>
    sum(all.filter((row) => row.month === month).map((r) => r.count));
  return {
    address,
    name: theirs.find((row) => row.name !== null)?.name ?? "",
    months: [...new Set(rows.map(({ month }) => month))].map((month) => ({
      month,
      theirs: count(theirs, month),
      mine: count(mine, month),
    })),
    last: { theirs: of(theirs, "last"), mine: of(mine, "last") },
    answered: { theirs: of(theirs, "answered"), mine: of(mine, "answered") },
    owed: { count: sum(rows.map(({ owed }) => owed)), since: iso(least(rows.map(({ since }) => since))) },
    awaited: { count: sum(rows.map(({ awaited }) => awaited)), until: iso(least(rows.map(({ until }) => until))) },
  };
}
