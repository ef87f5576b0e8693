import type { IcsTaken } from "@/core/api";
import { readIcsInSteps, writeIcsInSteps, type ReadEvent, type ReadTask } from "@/core/calendar/ics";
import { changeOf, PLAIN_TASK, sameThing, type CalendarEvent, type Task, type ThingEdit } from "@/core/change";
import type { Database, Queryable, Transaction } from "../db";
import { inTurn } from "../run";
import { reserve } from "../store";
import { writeByHand } from "./by-hand";
import { calendarBySecret, firstCalendar, listCalendars } from "./calendars";
import type { Context } from "./context";
import { inTurns } from "./in-turns";
import { listTasks } from "./tasks";

/** Calendars of other programs taken in, and one's own given to them. */

/** Bytes of a calendar that is taken in: some fifty thousand events. */
export const MOST_ICS_BYTES = 16 * 1024 * 1024;
const MOST_EVENTS = 100_000;
/** Problems past these are counted only. */
const MOST_PROBLEMS = 200;

interface Row {
  readonly id: number;
  readonly value: CalendarEvent;
}

const keyOf = ({ uid, instead }: Pick<CalendarEvent, "uid" | "instead">): string => `${uid}\n${instead ?? ""}`;

/** What is here already of what comes in. */
async function here(
  sql: Queryable,
  { person }: Context,
  calendar: number,
  read: readonly ReadEvent[],
): Promise<Map<string, Row>> {
  const uids = [...new Set(read.map(({ event }) => event.uid))];
  const rows = await sql<Row[]>`
    select e.id, e.value from unnest(${uids}::text[]) as u(uid) join event e on e.person = ${person} and e.uid = u.uid
    where e.calendar = ${calendar}`;
  return new Map(rows.map((row) => [keyOf(row.value), row]));
}

/** To-dos that are not here already, by what they are and when. */
async function freshTasks(sql: Queryable, { person }: Context, tasks: readonly ReadTask[]): Promise<ReadTask[]> {
  const rows = await sql<{ title: string; due_ms: number | null }[]>`
    select title, (extract(epoch from due) * 1000)::float8 as due_ms from task where person = ${person}`;
  const known = new Set(rows.map(({ title, due_ms }) => `${title}\n${due_ms ?? ""}`));
  return tasks.filter(({ title, due }) => {
    const key = `${title}\n${due === null ? "" : Date.parse(due)}`;
    return !known.has(key) && known.add(key);
  });
}

const taskOf = ({ title, due, estimate, done, pressing, repeat }: ReadTask): Task => {
  return { ...PLAIN_TASK, title, due, estimate, done, pressing, repeat };
};

/**
 * Takes a calendar in: what is new is added, what is newer than what is here is changed, and nothing is taken away.
 * One entry, which takes all of it back.
 */
export async function importIcs(context: Context, wanted: number, source: string): Promise<IcsTaken> {
  const read = await inTurns(readIcsInSteps(source, context.zone));
  const problems = [...read.problems];
  let same = 0;
  return inTurn(context.db, context.person, async (tx, seq) => {
    const calendar = await firstCalendar(tx, context, wanted);
    const known = await here(tx, context, calendar, read.events);
    const [{ count } = { count: 0 }] = await tx<{ count: number }[]>`
      select count(*)::int as count from event where person = ${context.person}`;
    let room = MOST_EVENTS - count;
    const fresh: CalendarEvent[] = [];
    const changed: { readonly row: Row; readonly after: CalendarEvent }[] = [];
    for (const { line, event } of read.events) {
      const row = known.get(keyOf(event));
      if (!row) {
        if (room-- > 0) fresh.push({ ...event, calendar });
        else problems.push({ line, text: `there are ${MOST_EVENTS} events already: left out` });
        continue;
      }
      // What only this app knows of it stays.
      const { task, block } = row.value;
      const after = { ...event, calendar, task, block };
      if (sameThing(row.value, after)) same++;
      else if (event.sequence < row.value.sequence)
        problems.push({ line, text: "it is older than what is here: left alone" });
      else changed.push({ row, after });
    }
    const tasks = await freshTasks(tx, context, read.tasks);
    await write(tx, context, seq, { fresh, changed, tasks });
    problems.sort((a, b) => a.line - b.line);
    return {
      events: fresh.length + changed.length,
      same,
      tasks: tasks.length,
      problems: problems.slice(0, MOST_PROBLEMS),
      more: Math.max(0, problems.length - MOST_PROBLEMS),
    };
  });
}

interface TakenIn {
  readonly fresh: readonly CalendarEvent[];
  readonly changed: readonly { readonly row: Row; readonly after: CalendarEvent }[];
  readonly tasks: readonly ReadTask[];
}

async function write(
  tx: Transaction,
  context: Context,
  seq: number,
  { fresh, changed, tasks }: TakenIn,
): Promise<void> {
  const ids = await reserve(tx, "event", fresh.length);
  const taskIds = await reserve(tx, "task", tasks.length);
  const edits: ThingEdit[] = [
    ...fresh.map((after, i): ThingEdit => {
      return { kind: "event", key: String(ids[i]), about: null, before: null, after };
    }),
    ...changed.map(({ row, after }): ThingEdit => {
      return { kind: "event", key: String(row.id), about: null, before: row.value, after };
    }),
    ...tasks.map((task, i): ThingEdit => {
      return { kind: "task", key: String(taskIds[i]), about: null, before: null, after: taskOf(task) };
    }),
  ];
  const about = `${fresh.length + changed.length} events, ${tasks.length} tasks`;
  await writeByHand(tx, context, seq, changeOf([], edits), { name: "Took a calendar in", about, messages: 0 });
}

/** A calendar as text/calendar. */
export async function exportIcs(context: Context, id: number, now = Date.now()): Promise<string> {
  const calendar = await firstCalendar(context.db.sql, context, id);
  const name = (await listCalendars(context)).find((one) => one.id === calendar)?.name;
  const rows = await context.db.sql<Row[]>`
    select id, value from event where person = ${context.person} and calendar = ${calendar} order by id`;
  const events = rows.map(({ value }) => value);
  return inTurns(writeIcsInSteps({ events, ...(name ? { name } : {}) }, now));
}

/** All tasks as to-dos. */
export async function exportTasks(context: Context, now = Date.now()): Promise<string> {
  const tasks = await listTasks(context);
  const named = tasks.map((task) => [`task-${task.id}@tachyne.example`, task] as const);
  return inTurns(writeIcsInSteps({ events: [], tasks: named, zone: context.zone }, now));
}

/** The calendar that a secret address is of. @throws Refusal (404) */
export async function sharedIcs(db: Database, secret: string): Promise<string> {
  const { person, zone, id } = await calendarBySecret(db, secret);
  return exportIcs({ db: db.as(person), person, zone }, id);
}
