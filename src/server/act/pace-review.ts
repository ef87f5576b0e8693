import type { PaceReviewShape } from "@/core/api";
import { writeEquals } from "@/core/narrow";
import { dayText, mondayOf, type Day } from "@/core/pace";
import type { Context } from "./context";
import { listFound } from "./found";
import { listMacros } from "./macros";
import { readPace, readPaceMacros, readPaceSenders, todayIn, type PaceQuery } from "./pace";

/** A week looked back on: what came, what was done, what was left lying, and what would save work. */

const WEEK = 7;
const DAY_MS = 86_400_000;
/** What waits longer was left lying. */
const NEGLECTED_DAYS = 7;
const MOST_NAMED = 8;
/** Of somebody who wrote less there is nothing to gain. */
const LEAST_UNREAD = 3;
/** Weeks in which nothing of theirs was read. */
const UNREAD_WEEKS = 4;

/** @param week a day of it; null for the week that is over */
export async function readReview(context: Context, week: Day | null, now = new Date()): Promise<PaceReviewShape> {
  const { db, person, zone } = context;
  const monday = mondayOf(week ?? todayIn(zone, now) - WEEK);
  const ofDays = (from: Day, days: number): PaceQuery => ({
    from,
    to: from + days - 1,
    by: "week",
    place: null,
    account: null,
    until: null,
  });
  const weeks = await readPace(context, ofDays(monday - WEEK, 2 * WEEK), now);
  const [before, here] = [weeks.flow[0]!, weeks.flow[1]!];
  const [macros, senders, found, all, neglected, oldest] = await Promise.all([
    readPaceMacros(context, ofDays(monday, WEEK)),
    readPaceSenders(context, ofDays(monday + WEEK - UNREAD_WEEKS * WEEK, UNREAD_WEEKS * WEEK)),
    listFound(context),
    listMacros(context),
    db.sql<{ name: string; address: string; open: number; ms: number }[]>`
      select (array_agg(m.from_name order by m.date desc))[1] as name, lower(m.from_address) as address, count(*)::int as open,
        (extract(epoch from now() - min(p.came)) * 1000)::float8 as ms
      from pace_stay p join message m on m.person = p.person and m.id = p.message
      where p.person = ${person} and p.place = ${weeks.place.id} and p.gone is null and m.list = '' and m.from_address <> ''
        and p.came < now() - ${NEGLECTED_DAYS} * interval '1 day'
        and exists (select from written_to w where w.person = ${person} and w.address = lower(m.from_address))
      group by lower(m.from_address) order by ms desc limit ${MOST_NAMED}`,
    db.sql<{ ms: number | null }[]>`
      select (extract(epoch from now() - min(came)) * 1000)::float8 as ms from pace_stay
      where person = ${person} and place = ${weeks.place.id} and gone is null`,
  ]);
  const nameOf = new Map(all.map(({ id, name }) => [id, name]));
  return {
    week: dayText(monday),
    came: here.came,
    decided: here.decided,
    filed: here.filed,
    before: { came: before.came, decided: before.decided },
    open: weeks.place.open,
    oldest: oldest[0]!.ms,
    neglected: neglected.map(({ name, address, open, ms }) => ({
      name: name || address,
      narrow: `${writeEquals("folder", weeks.place.name)} & ${writeEquals("from", address)}`,
      open,
      days: Math.floor(ms / DAY_MS),
    })),
    unread: senders
      .filter(({ came, unread }) => came >= LEAST_UNREAD && unread === came)
      .slice(0, MOST_NAMED)
      .map(({ name, narrow, came }) => ({ name, narrow, count: came })),
    rules: found.rules.map(({ narrow, folder, messages }) => ({ narrow, folder, messages })),
    macros: found.macros.map(({ macros: some, times }) => ({
      name: some.map((id) => nameOf.get(id) ?? "?").join(", then "),
      times,
    })),
    saved: {
      keys: macros.reduce((sum, { keys }) => sum + keys, 0),
      seconds: macros.reduce((sum, { seconds }) => sum + seconds, 0),
    },
  };
}
