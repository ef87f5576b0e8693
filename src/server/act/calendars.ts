import { randomBytes } from "node:crypto";
import type { z } from "zod";
import type { calendarPatch, CalendarShape, newCalendar } from "@/core/api";
import { changeOf, type Calendar, type CalendarEvent, type ThingEdit } from "@/core/change";
import { messageId, type PersonId } from "@/core/id";
import type { Database, Queryable } from "../db";
import { inTurn, notFound, Refusal, usualCalendar } from "../run";
import { reserve, tell } from "../store";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";

const MOST_CALENDARS = 50;

type Row = Omit<CalendarShape, "address"> & { readonly secret: string | null };

async function readCalendars(sql: Queryable, { person }: Context, id: number | null = null): Promise<CalendarShape[]> {
  const rows = await sql<Row[]>`
    select c.id, c.name, c.colour, c.secret,
      (select count(*)::int from event e where e.person = c.person and e.calendar = c.id and e.instead is null) as events
    from calendar c where person = ${person} and (${id}::bigint is null or id = ${id}) order by id`;
  return rows.map(({ secret, ...row }) => ({
    ...row,
    address: secret === null ? null : `/api/v1/calendar-addresses/${secret}.ics`,
  }));
}

export const listCalendars = (context: Context): Promise<CalendarShape[]> => readCalendars(context.db.sql, context);

async function one(sql: Queryable, context: Context, id: number): Promise<CalendarShape> {
  const [found] = await readCalendars(sql, context, id);
  if (!found) throw notFound("calendar", id);
  return found;
}

/** The calendar that is asked for, or the first there is. @throws Refusal where there is none */
export async function firstCalendar(sql: Queryable, context: Context, wanted?: number): Promise<number> {
  if (wanted !== undefined) return (await one(sql, context, wanted)).id;
  return usualCalendar(sql, context.person);
}

export async function createCalendar(context: Context, body: z.infer<typeof newCalendar>): Promise<CalendarShape> {
  return inTurn(context.db, context.person, async (tx, seq) => {
    if ((await readCalendars(tx, context)).length >= MOST_CALENDARS)
      throw new Refusal(422, "Too many calendars", `There are ${MOST_CALENDARS} already. Delete some first.`);
    const [id] = await reserve(tx, "calendar", 1);
    const edit: ThingEdit = { kind: "calendar", key: String(id), about: null, before: null, after: body };
    await writeByHand(tx, context, seq, changeOf([], [edit]), {
      name: "New calendar",
      about: body.name,
      messages: 0,
    });
    return one(tx, context, id!);
  });
}

export async function changeCalendar(
  context: Context,
  id: number,
  body: z.infer<typeof calendarPatch>,
): Promise<CalendarShape> {
  return inTurn(context.db, context.person, async (tx, seq) => {
    const { name, colour } = await one(tx, context, id);
    const before: Calendar = { name, colour };
    const after: Calendar = { ...before, ...body };
    const edit: ThingEdit = { kind: "calendar", key: String(id), about: null, before, after };
    await writeByHand(tx, context, seq, changeOf([], [edit]), {
      name: "Changed calendar",
      about: after.name,
      messages: 0,
    });
    return one(tx, context, id);
  });
}

/** Deletes a calendar with all that is in it: one entry, which brings all of it back. */
export async function deleteCalendar(context: Context, id: number): Promise<void> {
  await inTurn(context.db, context.person, async (tx, seq) => {
    const { name, colour } = await one(tx, context, id);
    const rows = await tx<{ id: number; message: number | null; value: CalendarEvent }[]>`
      select id, message, value from event where person = ${context.person} and calendar = ${id}`;
    const edits: ThingEdit[] = [
      { kind: "calendar", key: String(id), about: null, before: { name, colour }, after: null },
      ...rows.map(({ id: event, message, value }): ThingEdit => {
        const about = message === null ? null : messageId(message);
        return { kind: "event", key: String(event), about, before: value, after: null };
      }),
    ];
    await writeByHand(tx, context, seq, changeOf([], edits), {
      name: "Deleted calendar",
      about: name,
      messages: 0,
    });
  });
}

const SECRET_BYTES = 24;

/** Gives a calendar an address under which other programs read it; one that it had is no more. */
export const shareCalendar = (context: Context, id: number): Promise<CalendarShape> =>
  writeSecret(context, id, randomBytes(SECRET_BYTES).toString("base64url"));

/** Takes a calendar's address away: whoever has it reads nothing any more. */
export const unshareCalendar = (context: Context, id: number): Promise<CalendarShape> => writeSecret(context, id, null);

async function writeSecret(context: Context, id: number, secret: string | null): Promise<CalendarShape> {
  return inTurn(context.db, context.person, async (tx) => {
    await one(tx, context, id);
    await tx`update calendar set secret = ${secret} where person = ${context.person} and id = ${id}`;
    await tell(tx, context.person, "settings");
    return one(tx, context, id);
  });
}

/** Whose calendar a secret is of. */
export async function calendarBySecret(
  db: Database,
  secret: string,
): Promise<{ readonly person: PersonId; readonly id: number; readonly zone: string }> {
  const [found] = await db.sql<{ person: PersonId; id: number; zone: string }[]>`
    select c.person, c.id, p.zone from calendar c join person p on p.id = c.person where c.secret = ${secret}`;
  if (!found) throw new Refusal(404, "Not found", "There is no calendar under this address, or not any more.");
  return found;
}
