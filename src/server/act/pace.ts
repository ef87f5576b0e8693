import type { PaceBy, PaceMacroShape, PaceShape, PaceSourceShape } from "@/core/api";
import { wallAt } from "@/core/calendar";
import { STATE_BIT } from "@/core/columns";
import { READING } from "@/core/ledger";
import { TRAIT, writeEquals } from "@/core/narrow";
import {
  AGES,
  backlogs,
  byDay,
  byWeek,
  dayText,
  forecast,
  paceNeeded,
  saved,
  usualWeek,
  type Day,
  type HourCount,
} from "@/core/pace";
import { cut } from "@/core/text";
import {
  isBusy,
  keepPace,
  OPEN,
  PACE,
  readAnswers,
  readHours,
  readMacroUse,
  readPasses,
  readSources,
  readStays,
  readWaits,
  type Scope,
} from "../pace";
import { notFound, Refusal } from "../run";
import type { Context } from "./context";

/** Figures: what came, what was decided, what waits, and how long that will take. */

/** What is asked for: days by the person's clock, both of them within. */
export interface PaceQuery {
  readonly from: Day;
  readonly to: Day;
  readonly by: PaceBy;
  /** A folder; null for the inbox. */
  readonly place: number | null;
  readonly account: number | null;
  /** The day by which nothing is to be left; null for a week from now. */
  readonly until: Day | null;
}

const DAY_MS = 86_400_000;
const WEEK = 7;
/** How long one who asks waits for another who is counting. */
const PATIENCE_MS = 5000;
/** Days a forecast is told from. */
const LATELY = 28;
/** By the hour more is not to be read. */
const MOST_DAYS_BY_HOUR = 31;

export const todayIn = (zone: string, now: Date): Day => Math.floor(wallAt(zone, now.getTime()) / DAY_MS);

type PlaceShape = PaceShape["place"];

/** The places where mail waits, the inbox first. */
async function readPlaces({ db, person }: Context): Promise<PlaceShape[]> {
  return db.sql<PlaceShape[]>`
    with open as (
      select place, sum(count)::int as count from pace_count where person = ${person} and kind = ${PACE.stays} and at = ${OPEN} group by place)
    select f.id, f.path as name, coalesce(o.count, 0) as open from folder f left join open o on o.place = f.id
    where f.person = ${person} and not f.removed and (f.role is null or f.role = 'inbox')
    order by f.role is null, lower(f.path)`;
}

/** The scope of a question, once figures hold all that was written. @throws Refusal (404) */
async function scopeOf(
  context: Context,
  { from, to, place, account }: PaceQuery,
): Promise<{ scope: Scope; here: PlaceShape; places: readonly PlaceShape[] }> {
  const { db, person, zone } = context;
  await keepPace(db, person, zone, PATIENCE_MS).catch((error: unknown) => {
    if (!isBusy(error)) throw error;
    throw new Refusal(409, "Still counting", "The past is being counted for the first time. Ask again in a minute.");
  });
  const places = await readPlaces(context);
  const here = places.find(({ id, name }, i) => (place === null ? i === 0 && name !== "" : id === place));
  if (!here) throw notFound("place where mail waits", String(place));
  return { scope: { person, zone, from, to, place: here.id, account }, here, places };
}

const hourText = (day: Day, hour: number) => `${dayText(day)}T${String(hour).padStart(2, "0")}`;

/** Counts by what is asked: each hour, day or week of the time, from the first on. */
function inSteps(counts: readonly HourCount[], { from, to, by }: PaceQuery): { at: string; count: number }[] {
  if (by === "week") return byWeek(counts, from, to).map(({ week, count }) => ({ at: dayText(week), count }));
  if (by === "day") return byDay(counts, from, to).map((count, i) => ({ at: dayText(from + i), count }));
  const known = new Map(counts.map(({ day, hour, count }) => [hourText(day, hour), count]));
  return Array.from({ length: (to - from + 1) * 24 }, (_, i) => {
    const at = hourText(from + Math.floor(i / 24), i % 24);
    return { at, count: known.get(at) ?? 0 };
  });
}

/** Told from the days that are known and over. */
async function foresee(
  { db }: Context,
  scope: Scope,
  { until, open, since, today }: { until: Day | null; open: number; since: Day; today: Day },
): Promise<PaceShape["forecast"]> {
  // Of the day on which it began, what was decided before is not known.
  const past = { ...scope, from: Math.max(since + 1, today - LATELY), to: today - 1 };
  const [came, decided, filed] = await Promise.all([
    readHours(db.sql, past, "came"),
    readHours(db.sql, past, "decided"),
    readHours(db.sql, past, "filed"),
  ]);
  const arrivals = byDay(came, past.from, past.to);
  const told = forecast(arrivals, byDay([...decided, ...filed], past.from, past.to), open);
  const end = Math.max(today, until ?? today + WEEK);
  const needed = paceNeeded(arrivals, open, Math.max(1, end - today));
  if (!told || !needed) return null;
  return { ...told, days: arrivals.length, until: dayText(end), needed };
}

async function sinceOf({ db, person, zone }: Context): Promise<Day> {
  const [row] = await db.sql<{ since: number }[]>`
    select (extract(epoch from since) * 1000)::float8 as since from pace_mark where person = ${person}`;
  return todayIn(zone, new Date(row!.since));
}

export async function readPace(context: Context, query: PaceQuery, now = new Date()): Promise<PaceShape> {
  const { from, to, by } = query;
  if (by === "hour" && to - from >= MOST_DAYS_BY_HOUR)
    throw new Refusal(400, "Too long by the hour", `By the hour ask for at most ${MOST_DAYS_BY_HOUR} days.`);
  const { sql } = context.db;
  const { scope, here, places } = await scopeOf(context, query);
  const since = await sinceOf(context);
  const today = todayIn(context.zone, now);
  const [came, decided, filed, stays, waits, answers, passes, ahead] = await Promise.all([
    readHours(sql, scope, "came"),
    readHours(sql, scope, "decided"),
    readHours(sql, scope, "filed"),
    readStays(sql, scope),
    readWaits(sql, scope),
    readAnswers(sql, scope, TRAIT.mine),
    readPasses(sql, scope),
    foresee(context, scope, { until: query.until, open: here.open, since, today }),
  ]);
  const [decisions, filings] = [inSteps(decided, query), inSteps(filed, query)];
  const minutes = passes.ms / 60_000;
  return {
    from: dayText(from),
    to: dayText(to),
    by,
    since: dayText(since),
    place: here,
    places: [...places],
    flow: inSteps(came, query).map(({ at, count }, i) => ({
      at,
      came: count,
      decided: decisions[i]!.count,
      filed: filings[i]!.count,
    })),
    ages: [...AGES],
    backlog: backlogs(stays, from, Math.min(to, today)).map(({ day, total, layers }) => ({
      day: dayText(day),
      total,
      layers: [...layers],
    })),
    week: { came: usualWeek(came, from, to), decided: usualWeek([...decided, ...filed], from, to) },
    waits,
    answers,
    passes: {
      count: passes.count,
      decided: passes.decided,
      skipped: passes.skipped,
      minutes,
      pace: minutes > 0 ? passes.decided / minutes : null,
    },
    forecast: ahead,
  };
}

/** Who fills a place, and what becomes of it. */
export async function readPaceSenders(context: Context, query: PaceQuery): Promise<PaceSourceShape[]> {
  const { scope } = await scopeOf(context, query);
  const rows = await readSources(context.db.sql, scope, STATE_BIT.read);
  return rows.map(({ source, name, ...row }) => {
    const isList = source.startsWith("list ");
    const key = source.slice(source.indexOf(" ") + 1);
    return {
      source,
      isList,
      name: cut((isList ? key : name) || key || "nobody", 200),
      narrow: isList ? writeEquals("list", key) : writeEquals("from", key),
      ...row,
    };
  });
}

/** What was run, and what that has saved against doing it by hand. */
export async function readPaceMacros(context: Context, query: PaceQuery): Promise<PaceMacroShape[]> {
  const { scope } = await scopeOf(context, query);
  const rows = await readMacroUse(context.db.sql, scope, READING);
  return rows.map(({ macro, name, runs, messages, by_key, by_swipe, steps }) => ({
    macro,
    name,
    runs,
    messages,
    byKey: by_key,
    bySwipe: by_swipe,
    ...saved(deedsIn(steps), messages, runs),
  }));
}

/** What steps do; of two ways the first. */
function deedsIn(steps: unknown): string[] {
  if (!Array.isArray(steps)) return [];
  return (steps as { do: string; then?: unknown }[]).flatMap((step) => [step.do, ...deedsIn(step.then)]);
}
