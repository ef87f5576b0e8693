import type { Manifest } from "@/core/archive";
import type { CalendarEvent, ThingEdit } from "@/core/change";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import type { Transaction } from "../../db";
import { reserve } from "../../store";
import type { JobRow } from "../rows";
import { note } from "./restore";

/** What an archive of this app's own knows that is on no message: tasks, contacts and calendars. */

/** Messages by the hashes of their sources, of those that are named. */
async function messagesBy(
  tx: Transaction,
  person: PersonId,
  hashes: readonly (string | null)[],
): Promise<(hash: string | null) => MessageId | null> {
  const wanted = [...new Set(hashes.flatMap((hash) => hash ?? []))];
  const rows = await tx<{ hash: string; message: number }[]>`
    select encode(c.hash, 'hex') as hash, min(m.id) as message
    from content c join message m on m.person = c.person and m.content = c.id
    where c.person = ${person} and c.hash in (select decode(h, 'hex') from unnest(${wanted}::text[]) h)
    group by c.hash`;
  const found = new Map(rows.map(({ hash, message }) => [hash, messageId(message)]));
  return (hash) => (hash === null ? null : (found.get(hash) ?? null));
}

/** @returns the edits, and under which number each of the tasks is; null for one that was here already */
async function tasksIn(
  tx: Transaction,
  person: PersonId,
  { tasks }: Manifest,
): Promise<{ readonly edits: ThingEdit[]; readonly numbers: readonly (number | null)[] }> {
  const here = await tx<{ about: string }[]>`
    select concat_ws(E'\n', title, about, extract(epoch from due)::bigint) as about from task where person = ${person}`;
  const known = new Set(here.map(({ about }) => about));
  const isFresh = tasks.map(({ title, about, due }) => {
    const parts = [title, about, ...(due === null ? [] : [String(Math.round(Date.parse(due) / 1000))])];
    return !known.has(parts.join("\n"));
  });
  const fresh = await reserve(tx, "task", isFresh.filter(Boolean).length);
  const messageOf = await messagesBy(
    tx,
    person,
    tasks.map(({ message }) => message),
  );
  const numbers = isFresh.map((is) => (is ? Number(fresh.shift()) : null));
  const edits = tasks.flatMap(({ message, ...after }, i): ThingEdit[] =>
    numbers[i] === null
      ? []
      : [{ kind: "task", key: String(numbers[i]), about: messageOf(message), before: null, after }],
  );
  return { edits, numbers };
}

/** Calendars by their names, and what of them is not here already. @param tasks under which numbers they are here */
async function calendarsIn(
  tx: Transaction,
  person: PersonId,
  { calendars }: Manifest,
  tasks: readonly (number | null)[],
): Promise<ThingEdit[]> {
  const here = await tx<{ id: number; name: string }[]>`
    select id, name from calendar where person = ${person} order by id`;
  const ids = new Map(here.map(({ id, name }) => [name, id]));
  const fresh = calendars.filter(({ name }) => !ids.has(name));
  const numbers = await reserve(tx, "calendar", fresh.length);
  fresh.forEach(({ name }, i) => ids.set(name, Number(numbers[i])));
  const events = await tx<{ calendar: number; uid: string; instead: string | null }[]>`
    select calendar, uid, instead from event where person = ${person}`;
  const keyOf = (calendar: number, { uid, instead }: Pick<CalendarEvent, "uid" | "instead">) =>
    `${calendar}\n${uid}\n${instead ?? ""}`;
  const known = new Set(events.map((one) => keyOf(one.calendar, one)));
  const messageOf = await messagesBy(
    tx,
    person,
    calendars.flatMap((one) => one.events.map(({ message }) => message)),
  );
  const wanted = calendars.flatMap((one) => {
    const calendar = ids.get(one.name)!;
    return one.events.flatMap(({ message, task, ...event }) => {
      const after: CalendarEvent = { ...event, calendar, task: task === null ? null : (tasks[task] ?? null) };
      return known.has(keyOf(calendar, event)) ? [] : [{ about: messageOf(message), after }];
    });
  });
  const keys = await reserve(tx, "event", wanted.length);
  return [
    ...fresh.map(({ name, colour }): ThingEdit => {
      return { kind: "calendar", key: String(ids.get(name)), about: null, before: null, after: { name, colour } };
    }),
    ...wanted.map(({ about, after }, i): ThingEdit => {
      return { kind: "event", key: String(keys[i]), about, before: null, after };
    }),
  ];
}

/** All of it, but for what is here already. */
export async function bringThings(tx: Transaction, job: JobRow, manifest: Manifest): Promise<void> {
  const person = job.person as PersonId;
  const tasks = await tasksIn(tx, person, manifest);
  const people = await tx<{ address: string }[]>`select address from contact where person = ${person}`;
  const met = new Set(people.map(({ address }) => address));
  const things: ThingEdit[] = [
    ...tasks.edits,
    ...(await calendarsIn(tx, person, manifest, tasks.numbers)),
    ...manifest.contacts
      .filter(({ address }) => !met.has(address))
      .map(({ address, ...after }): ThingEdit => ({ kind: "contact", key: address, about: null, before: null, after })),
  ];
  if (things.length > 0) await note(tx, job, new Map(), things);
}
