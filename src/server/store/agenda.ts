import { boundsOf } from "@/core/calendar";
import type { Calendar, CalendarEvent } from "@/core/change";
import { listOf } from "./list";
import type { ThingTable } from "./thing-table";

/** Calendars and what is in them, as changes write them. */

const NONE: readonly string[] = [];
const numbers = (keys: readonly string[]): string => listOf(keys.map(Number));

export const calendar: ThingTable<"calendar"> = {
  async read(sql, person, keys) {
    const rows = await sql<(Calendar & { id: number })[]>`
      select id, name, colour from calendar where person = ${person} and id = any(${numbers(keys)}::text::bigint[])`;
    return rows.map(({ id, ...value }) => [String(id), value]);
  },
  async write(tx, person, edits) {
    const made = edits.flatMap(({ key, after }) => (after ? [{ ...after, id: Number(key) }] : []));
    await tx`
      insert into calendar (person, id, name, colour)
      select ${person}, c.* from jsonb_to_recordset(${JSON.stringify(made)}::text::jsonb)
        as c(id bigint, name text, colour text)
      on conflict (person, id) do update set name = excluded.name, colour = excluded.colour`;
    const gone = edits.filter(({ after }) => after === null).map(({ key }) => key);
    await tx`delete from calendar where person = ${person} and id = any(${numbers(gone)}::text::bigint[])`;
    return NONE;
  },
};

/** Where clocks that hang in no zone are thought to hang, for what is looked for by time: it is searched with a margin. */
const NOWHERE = "UTC";

export const event: ThingTable<"event"> = {
  async read(sql, person, keys) {
    const rows = await sql<{ id: number; value: CalendarEvent }[]>`
      select id, value from event where person = ${person} and id = any(${numbers(keys)}::text::bigint[])`;
    return rows.map(({ id, value }) => [String(id), value]);
  },
  async write(tx, person, edits) {
    const made = edits.flatMap(({ key, about, after }) => {
      if (!after) return [];
      const { start, end } = boundsOf(after, NOWHERE);
      const { calendar: of, uid, instead, task } = after;
      const starts = new Date(start).toISOString();
      const ends = end === null ? null : new Date(end).toISOString();
      return [{ id: Number(key), message: about, calendar: of, uid, instead, task, starts, ends, value: after }];
    });
    await tx`
      insert into event (person, id, message, calendar, uid, instead, task, starts, ends, value)
      select ${person}, e.* from jsonb_to_recordset(${JSON.stringify(made)}::text::jsonb)
        as e(id bigint, message bigint, calendar bigint, uid text, instead text, task bigint, starts timestamptz,
          ends timestamptz, value jsonb)
      on conflict (person, id) do update set calendar = excluded.calendar, uid = excluded.uid,
        instead = excluded.instead, task = excluded.task, starts = excluded.starts, ends = excluded.ends,
        value = excluded.value`;
    const gone = edits.filter(({ after }) => after === null).map(({ key }) => key);
    await tx`delete from event where person = ${person} and id = any(${numbers(gone)}::text::bigint[])`;
    return NONE;
  },
};
