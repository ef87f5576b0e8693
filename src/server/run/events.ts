import { randomUUID } from "node:crypto";
import { wallAt, wallOf } from "@/core/calendar";
import { PLAIN_EVENT, type CalendarEvent, type ThingEdit } from "@/core/change";
import type { MessageId, PersonId } from "@/core/id";
import type { PlannedThing } from "@/core/macro";
import type { Queryable, Transaction } from "../db";
import { reserve } from "../store";
import { Refusal } from "./refusal";
import type { Who } from "./turn";

/** What macros put into the calendar. */

type Planned = Extract<PlannedThing, { kind: "event" }>;

const DAY_SECONDS = 86_400;

/** The first calendar there is, which things go into that name none. @throws Refusal (422) where there is none */
export async function usualCalendar(sql: Queryable, person: PersonId): Promise<number> {
  const [first] = await sql<{ id: number }[]>`
    select id from calendar where person = ${person} order by id limit 1`;
  if (!first) throw new Refusal(422, "There is no calendar", "Make a calendar first; undo brings a deleted one back.");
  return first.id;
}

export const newUid = (): string => `${randomUUID()}@tachyne.example`;

/**
 * Events as they are written, under ids of their own.
 * @param tasks what the same run made of the same messages: their events are time for them
 */
export async function eventsOf(
  tx: Transaction,
  { person, zone }: Who,
  planned: readonly Planned[],
  tasks: ReadonlyMap<MessageId, number>,
): Promise<ThingEdit[]> {
  if (planned.length === 0) return [];
  const calendar = await usualCalendar(tx, person);
  const ids = await reserve(tx, "event", planned.length);
  return planned.map(({ source, event: { title, note, at, minutes } }, i): ThingEdit => {
    const after: CalendarEvent = {
      ...PLAIN_EVENT,
      calendar,
      uid: newUid(),
      title,
      note,
      zone: minutes === null ? "" : zone,
      start: minutes === null ? at : wallOf(wallAt(zone, Date.parse(at))),
      length: minutes === null ? DAY_SECONDS : minutes * 60,
      task: tasks.get(source) ?? null,
    };
    return { kind: "event", key: String(ids[i]), about: source, before: null, after };
  });
}
