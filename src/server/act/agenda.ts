import type { z } from "zod";
import type { agendaShape, fitRequest, FitShape, MoveShape, OffersShape, TaskShape, taskTime } from "@/core/api";
import {
  budget,
  DAY_MS,
  elsewhereIn,
  firstFree,
  freeIn,
  instantAt,
  occurrences,
  offers,
  offerText,
  planTasks,
  spanAt,
  USUAL_ESTIMATE,
  wallAt,
  wallOf,
  type Range,
  type Span,
  type Taken,
} from "@/core/calendar";
import { changeOf, PLAIN_EVENT, type CalendarEvent, type ThingEdit } from "@/core/change";
import { cut } from "@/core/text";
import type { Queryable, Transaction } from "../db";
import { inTurn, newUid, readSettings, Refusal } from "../run";
import { reserve } from "../store";
import { writeByHand } from "./by-hand";
import { eventsIn } from "./calendar-events";
import { firstCalendar } from "./calendars";
import type { Context } from "./context";
import { listTasks, readTasks } from "./tasks";

/** What a stretch of time holds, and work put into what of it is free. */

const iso = (ms: number): string => new Date(ms).toISOString();
const shown = ({ start, end }: Span) => ({ start: iso(start), end: iso(end) });

export async function readAgenda(context: Context, range: Range): Promise<z.infer<typeof agendaShape>> {
  const { db, person, zone } = context;
  const events = await eventsIn(context, range);
  const elsewhere = elsewhereIn(events);
  const spent = budget();
  let cut = false;
  const found = events.flatMap((event) => {
    const { list, cut: isCut } = occurrences(event, range, zone, elsewhere(event), spent);
    cut ||= isCut;
    return list.map(({ at, ...span }) => {
      return { event: event.id, at, ...shown(span), title: event.title, calendar: event.calendar, busy: event.busy };
    });
  });
  const [from, to] = [iso(range.from), iso(range.to)];
  const tasks = await db.sql<{ id: number }[]>`
    select id from task where person = ${person} and not done and due >= ${from} and due < ${to} order by due, id`;
  const flags = await db.sql<{ id: number }[]>`
    select message as id from message_state
    where person = ${person} and flag_due >= ${from} and flag_due < ${to} order by flag_due, message limit 1000`;
  return {
    occurrences: found.sort((a, b) => (a.start < b.start ? -1 : a.start > b.start ? 1 : a.event - b.event)),
    cut,
    tasks: tasks.map(({ id }) => id),
    flags: flags.map(({ id }) => id),
  };
}

const MINUTE_MS = 60_000;
/** How far ahead work is put. */
const HORIZON_DAYS = 42;

/** What takes time from now on, and until when that was looked for. */
async function takenFrom(
  context: Context,
  now: Date,
  sql: Queryable = context.db.sql,
): Promise<{ readonly range: Range; readonly taken: Taken[] }> {
  const range = { from: now.getTime(), to: now.getTime() + HORIZON_DAYS * DAY_MS };
  const events = await eventsIn(context, range, sql);
  const elsewhere = elsewhereIn(events);
  const spent = budget();
  const taken = events.flatMap((event) =>
    occurrences(event, range, context.zone, elsewhere(event), spent).list.map(({ start, end }) => {
      return { event: event.id, task: event.task, busy: event.busy, start, end };
    }),
  );
  return { range, taken };
}

/** Where all open tasks would go: nothing is written. */
export async function proposeFit(context: Context, now = new Date()): Promise<FitShape> {
  const { range, taken } = await takenFrom(context, now);
  const { workHours } = await readSettings(context.db.sql, context.person);
  const { moves, proofs, left } = planTasks(await listTasks(context), taken, workHours, range, context.zone);
  return {
    moves: moves.map(({ task, before, after }): MoveShape => ({
      task,
      events: before.map(({ event }) => event),
      before: before.map(shown),
      after: after.map(shown),
    })),
    proofs: proofs.map(({ id, by, work, needs, room }) => ({
      task: id,
      by: iso(by),
      tasks: [...work],
      needs: Math.round(needs / MINUTE_MS),
      room: Math.round(room / MINUTE_MS),
    })),
    left: [...left],
  };
}

/**
 * Free times to offer somebody, the first of each of the next days. They begin tomorrow: an answer takes its time.
 * @param minutes how long @param count how many
 */
export async function offerTimes(
  context: Context,
  minutes: number,
  count: number,
  now = new Date(),
): Promise<OffersShape> {
  const { zone } = context;
  const { range, taken } = await takenFrom(context, now);
  const { workHours } = await readSettings(context.db.sql, context.person);
  const tomorrow = instantAt(zone, Math.floor(wallAt(zone, now.getTime()) / DAY_MS) * DAY_MS + DAY_MS);
  const busy = taken.filter((one) => one.busy);
  const free = freeIn(workHours, { ...range, from: tomorrow }, zone, busy);
  return offers(free, minutes * MINUTE_MS, count, zone).map((span) => ({
    ...shown(span),
    text: offerText(span, zone, now),
  }));
}

/** Time for a task, as it stands in a calendar. */
function timeFor(task: TaskShape, { start, end }: Span, calendar: number, zone: string): CalendarEvent {
  return {
    ...PLAIN_EVENT,
    uid: newUid(),
    calendar,
    title: task.title,
    zone,
    start: wallOf(wallAt(zone, start)),
    length: Math.round((end - start) / 1000),
    task: task.id,
  };
}

interface TimeRow {
  readonly id: number;
  readonly value: CalendarEvent;
}

/** The times of tasks among some events. */
const timesOf = (sql: Queryable, { person }: Context, ids: readonly number[]) => sql<TimeRow[]>`
  select id, value from event where person = ${person} and id = any(${ids}::bigint[]) and task is not null`;

/** Gives tasks their times, all in one entry. @throws Refusal (409) where a task or a time is not what it was */
export async function writeFit(
  context: Context,
  { moves }: z.infer<typeof fitRequest>,
  now = new Date(),
): Promise<void> {
  await inTurn(context.db, context.person, async (tx, seq) => {
    const moved = new Set(moves.flatMap(({ events }) => events));
    const { taken } = await takenFrom(context, now, tx);
    const stays = taken.filter(({ event, busy }) => busy && !moved.has(event));
    const tasks = new Map((await readTasks(tx, context)).map((task) => [task.id, task]));
    const rows = await timesOf(tx, context, [...moved]);
    const times = new Map(rows.map((row) => [row.id, row.value]));
    const calendar = await firstCalendar(tx, context);
    const edits: ThingEdit[] = [];
    let fresh = await reserve(
      tx,
      "event",
      moves.reduce((sum, { after }) => sum + after.length, 0),
    );
    for (const { task: id, events, after } of moves) {
      const task = tasks.get(id);
      const own = events.map((event) => ({ event, value: times.get(event) }));
      // What was free may be taken by now, by the same proposal in another window, say.
      const isFree = after.every(
        (one) => !stays.some(({ start, end }) => start < Date.parse(one.end) && end > Date.parse(one.start)),
      );
      if (!task || !isFree || own.some(({ value }) => value?.task !== id))
        throw new Refusal(409, "It is not as it was", "A task or its time was changed meanwhile. Look at it again.");
      after.forEach(({ start, end }, i) => {
        const wanted = timeFor(task, { start: Date.parse(start), end: Date.parse(end) }, calendar, context.zone);
        const old = own[i];
        // What there was is moved, so that it stays what it is for other programs.
        if (old?.value) {
          const { start: to, length, zone } = wanted;
          edits.push(
            edit(old.event, old.value, { ...old.value, start: to, length, zone, rule: null, also: [], except: [] }),
          );
        } else {
          edits.push(edit(fresh[0]!, null, wanted));
          fresh = fresh.slice(1);
        }
      });
      for (const { event, value } of own.slice(after.length)) edits.push(edit(event, value!, null));
    }
    await write(tx, context, seq, edits, `Time for ${moves.length === 1 ? "a task" : `${moves.length} tasks`}`);
  });
}

const edit = (id: number, before: CalendarEvent | null, after: CalendarEvent | null): ThingEdit => {
  return { kind: "event", key: String(id), about: null, before, after };
};

/** What a line of the ledger has room for. */
const LONGEST_ABOUT = 300;

function write(tx: Transaction, context: Context, seq: number, edits: readonly ThingEdit[], name: string) {
  const titles = edits.map(({ before, after }) => ((after ?? before) as CalendarEvent).title);
  const about = cut([...new Set(titles)].join(", "), LONGEST_ABOUT);
  return writeByHand(tx, context, seq, changeOf([], edits), { name, about, messages: 0 });
}

/** Gives a task time: then, or in the first stretch that holds it before it is due. */
export async function giveTime(
  context: Context,
  id: number,
  { start, minutes }: z.infer<typeof taskTime>,
  now = new Date(),
): Promise<{ readonly start: string; readonly end: string }> {
  return inTurn(context.db, context.person, async (tx, seq) => {
    // In the turn: what is free is given once.
    const { range, taken } = await takenFrom(context, now, tx);
    const { workHours } = await readSettings(tx, context.person);
    const task = (await readTasks(tx, context)).find((one) => one.id === id);
    if (!task) throw new Refusal(404, "Not found", "There is no such task any more.");
    const length = (minutes ?? task.estimate ?? USUAL_ESTIMATE) * MINUTE_MS;
    const busy = taken.filter((one) => one.busy);
    const free = freeIn(workHours, range, context.zone, busy);
    const due = task.due === null ? Infinity : Date.parse(task.due);
    const from = start === undefined ? null : Date.parse(start);
    const span =
      from === null ? (firstFree(free, length, due) ?? firstFree(free, length)) : { start: from, end: from + length };
    if (!span)
      throw new Refusal(
        422,
        "No room",
        `Nothing of ${HORIZON_DAYS} days holds it: say that it is shorter, or make room.`,
      );
    const event = timeFor(task, span, await firstCalendar(tx, context), context.zone);
    const [number] = await reserve(tx, "event", 1);
    await write(tx, context, seq, [edit(number!, null, event)], "Time for a task");
    return shown(spanAt(event, wallAt(context.zone, span.start), context.zone));
  });
}
