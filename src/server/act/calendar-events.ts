import type { z } from "zod";
import type { eventPatch, eventScope, EventShape, newEvent } from "@/core/api";
import {
  comesAgain,
  editEvent,
  occurrences,
  type EventEdit,
  type EventPatch,
  type Range,
  type Scope,
  type Series,
} from "@/core/calendar";
import { changeOf, PLAIN_EVENT, type CalendarEvent, type ThingEdit } from "@/core/change";
import { messageId } from "@/core/id";
import type { Queryable, Transaction } from "../db";
import { inTurn, newUid, notFound, Refusal } from "../run";
import { reserve } from "../store";
import { writeByHand } from "./by-hand";
import { firstCalendar } from "./calendars";
import type { Context } from "./context";

/** What is in calendars, made and changed by hand. */

interface Row {
  readonly id: number;
  readonly message: number | null;
  readonly value: CalendarEvent;
}

const columns = (sql: Queryable) => sql`
  e.id, (select m.id from message m where m.person = e.person and m.id = e.message) as message, e.value`;
const shapeOf = ({ id, message, value }: Row): EventShape => ({
  ...value,
  also: [...value.also],
  except: [...value.except],
  attendees: [...value.attendees],
  id,
  message,
});

/** More than anybody can look at. */
const MOST_EVENTS = 20_000;

/**
 * Events that may take place in a range, instants in ms, with those of their series that stand elsewhere. What comes
 * again is one of them.
 */
export async function eventsIn(
  { db, person }: Context,
  { from, to }: Range,
  sql: Queryable = db.sql,
): Promise<EventShape[]> {
  const rows = await sql<Row[]>`
    select ${columns(sql)} from event e where person = ${person}
      and starts < ${new Date(to).toISOString()} and (ends is null or ends >= ${new Date(from).toISOString()})
    order by starts limit ${MOST_EVENTS}`;
  const series = rows.filter(({ value }) => value.instead === null && comesAgain(value)).map(({ value }) => value.uid);
  const elsewhere =
    series.length === 0
      ? []
      : await sql<Row[]>`
          select ${columns(sql)} from event e
          where person = ${person} and instead is not null and uid = any(${series}::text[])`;
  const all = new Map([...rows, ...elsewhere].map((row) => [row.id, shapeOf(row)]));
  return [...all.values()].sort((a, b) => a.id - b.id);
}

async function readSeries(sql: Queryable, { person }: Context, id: number): Promise<Series<number> & { row: Row }> {
  const [row] = await sql<Row[]>`select ${columns(sql)} from event e where person = ${person} and id = ${id}`;
  if (!row) throw notFound("event", id);
  const own =
    row.value.instead === null && comesAgain(row.value)
      ? await sql<Row[]>`
          select ${columns(sql)} from event e
          where person = ${person} and uid = ${row.value.uid} and calendar = ${row.value.calendar}
            and instead is not null`
      : [];
  return { row, key: row.id, event: row.value, own: own.map((one) => ({ key: one.id, event: one.value })) };
}

/** Writes what becomes of events. @returns their numbers, those that are new among them */
async function writeEvents(
  tx: Transaction,
  context: Context,
  seq: number,
  edits: readonly EventEdit<number>[],
  { name, about, message = null }: { readonly name: string; readonly about: string; readonly message?: number | null },
): Promise<number[]> {
  const fresh = await reserve(tx, "event", edits.filter(({ key }) => key === null).length);
  const things = edits.map(({ key, before, after }): ThingEdit => {
    const number = key ?? fresh.shift()!;
    return { kind: "event", key: String(number), about: message === null ? null : messageId(message), before, after };
  });
  await writeByHand(tx, context, seq, changeOf([], things), { name, about, messages: message === null ? 0 : 1 });
  return things.filter(({ after }) => after !== null).map(({ key }) => Number(key));
}

const byIds = async (sql: Queryable, { person }: Context, ids: readonly number[]): Promise<EventShape[]> =>
  (
    await sql<Row[]>`
      select ${columns(sql)} from event e where person = ${person} and id = any(${ids}::bigint[]) order by id`
  ).map(shapeOf);

/** @throws Refusal (404) */
export async function eventById(context: Context, id: number): Promise<EventShape> {
  const [found] = await byIds(context.db.sql, context, [id]);
  if (!found) throw notFound("event", id);
  return found;
}

export async function createEvent(context: Context, body: z.infer<typeof newEvent>): Promise<EventShape> {
  return inTurn(context.db, context.person, async (tx, seq) => {
    const { message, calendar, ...fields } = body;
    const after: CalendarEvent = {
      ...PLAIN_EVENT,
      ...fields,
      uid: newUid(),
      calendar: await firstCalendar(tx, context, calendar),
    };
    const said = { name: "New in the calendar", about: after.title, message };
    const ids = await writeEvents(tx, context, seq, [{ key: null, before: null, after }], said);
    return (await byIds(tx, context, ids))[0]!;
  });
}

/** Which of its times is meant: one that it has. */
function meant({ event }: Series<number>, at: string | undefined, scope: Scope, zone: string): string {
  const asked = at ?? event.start;
  if (scope === "all" || !comesAgain(event) || asked === event.start) return asked;
  const wall = Date.parse(`${asked.slice(0, 10)}T00:00Z`);
  const day = 2 * 86_400_000;
  const { list } = occurrences(event, { from: wall - day, to: wall + day }, zone);
  if (!list.some((one) => one.at === asked))
    throw new Refusal(409, "There is no such time", "It does not take place then any more. Look at it again.");
  return asked;
}

export async function changeEvent(
  context: Context,
  id: number,
  { at, scope = "all", ...patch }: z.infer<typeof eventPatch>,
): Promise<EventShape[]> {
  return inTurn(context.db, context.person, async (tx, seq) => {
    const series = await readSeries(tx, context, id);
    if (patch.calendar !== undefined) await firstCalendar(tx, context, patch.calendar);
    const edits = editEvent(series, meant(series, at, scope, context.zone), scope, patch as EventPatch, newUid());
    const { title } = { ...series.event, ...patch };
    const said = { name: "Changed in the calendar", about: title, message: series.row.message };
    const ids = await writeEvents(tx, context, seq, edits, said);
    return byIds(tx, context, ids);
  });
}

export async function deleteEvent(
  context: Context,
  id: number,
  { at, scope }: z.infer<typeof eventScope>,
): Promise<void> {
  await inTurn(context.db, context.person, async (tx, seq) => {
    const series = await readSeries(tx, context, id);
    const edits = editEvent(series, meant(series, at, scope, context.zone), scope, null, newUid());
    const { title } = series.event;
    const said = { name: "Out of the calendar", about: title, message: series.row.message };
    await writeEvents(tx, context, seq, edits, said);
  });
}
