import { createHash } from "node:crypto";
import { once } from "node:events";
import { Readable } from "node:stream";
import archiver from "archiver";
import { ARCHIVE_FORMAT, ARCHIVE_VERSION, fileStem, lineOf, MANIFEST, type Line, type Manifest } from "@/core/archive";
import type { Calendar, CalendarEvent } from "@/core/change";
import { messageId, type MessageId } from "@/core/id";
import { mboxEntry } from "@/core/mail";
import { TRAIT } from "@/core/narrow";
import type { Directory, Folder } from "@/core/place";
import { mustBeHere, readDirectory } from "../run";
import { readStates } from "../store";
import type { Context } from "./context";

/** Everything a person has as one file, to be taken elsewhere or kept. */

/** Sources are read a few at a time, so that an export of any size stays small in memory. */
const AT_ONCE = 50;

interface Row {
  readonly id: MessageId;
  readonly raw: Uint8Array;
  readonly sender: string;
  readonly ms: number;
  readonly traits: number;
}

/** All messages by the folder they are in now: one that is moved while the file is written is in it once. */
async function idsByFolder({ db, person }: Context): Promise<Map<number, MessageId[]>> {
  const rows = await db.sql<{ folder: number; ids: number[] }[]>`
    select s.folder, array_agg(m.id order by m.date, m.id) as ids
    from message_state s join message m on m.person = s.person and m.id = s.message
    where s.person = ${person} group by s.folder`;
  return new Map(rows.map(({ folder, ids }) => [folder, ids.map((id) => messageId(Number(id)))]));
}

/** A folder's messages as mbox, oldest first. @param lines takes what was decided about each, in the same order */
async function* mailOf(
  { db, person }: Context,
  ids: readonly MessageId[],
  directory: Directory,
  lines: string[],
): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < ids.length; at += AT_ONCE) {
    const part = ids.slice(at, at + AT_ONCE);
    const rows = await db.sql<Row[]>`
      select m.id, c.raw, m.from_address as sender, (extract(epoch from m.date) * 1000)::float8 as ms, m.traits
      from message m join content c on c.person = m.person and c.id = m.content
      where m.person = ${person} and m.id = any(${part}::bigint[]) order by m.date, m.id`;
    const states = await readStates(db.sql, person, part);
    for (const { id, raw, sender, ms, traits } of rows) {
      const state = states.get(messageId(id));
      // What was deleted for good meanwhile is in neither file.
      if (!state) continue;
      const source = {
        hash: createHash("sha256").update(raw).digest("hex"),
        answered: (traits & TRAIT.answered) !== 0,
      };
      lines.push(`${JSON.stringify(lineOf(state, source, directory) satisfies Line)}\n`);
      yield mboxEntry(raw, sender, new Date(ms));
    }
  }
}

async function thingsOf({ db, person }: Context): Promise<Pick<Manifest, "tasks" | "contacts" | "calendars">> {
  const tasks = await db.sql<
    (Omit<Manifest["tasks"][number], "due"> & { readonly id: number; readonly due: number | null })[]
  >`
    select t.id, t.title, (extract(epoch from t.due) * 1000)::float8 as due, t.estimate, t.about, t.done, t.pressing, t.waiting, t.repeat,
      encode(c.hash, 'hex') as message
    from task t left join message m on m.person = t.person and m.id = t.message
      left join content c on c.person = m.person and c.id = m.content
    where t.person = ${person} order by t.id`;
  const contacts = await db.sql<Manifest["contacts"]>`
    select address, name, note from contact where person = ${person} order by address`;
  const places = new Map(tasks.map(({ id }, i) => [id, i]));
  const calendars = await db.sql<(Calendar & { readonly id: number })[]>`
    select id, name, colour from calendar where person = ${person} order by id`;
  const events = await db.sql<{ value: CalendarEvent; message: string | null }[]>`
    select e.value, encode(c.hash, 'hex') as message from event e
      left join message m on m.person = e.person and m.id = e.message
      left join content c on c.person = m.person and c.id = m.content
    where e.person = ${person} order by e.id`;
  return {
    tasks: tasks.map(({ id: _, ...task }) => ({
      ...task,
      due: task.due === null ? null : new Date(task.due).toISOString(),
    })),
    contacts: [...contacts],
    calendars: calendars.map(({ id, ...calendar }) => ({
      ...calendar,
      events: events.flatMap(({ value: { calendar: of, ...event }, message }) =>
        of === id ? [{ ...event, task: event.task === null ? null : (places.get(event.task) ?? null), message }] : [],
      ),
    })),
  };
}

/** What is on its way is a draft elsewhere: nothing there would send it. */
const roleElsewhere = ({ role }: Folder) => (role === "outbox" ? "drafts" : role);

/**
 * All mail with what was decided about it, tasks, contacts and calendars, as a zip.
 * @throws Refusal while sources are to come from a server
 */
export async function exportAll(context: Context, now: Date): Promise<Readable> {
  const directory = await readDirectory(context.db.sql, context.person);
  const things = await thingsOf(context);
  const all = await idsByFolder(context);
  await mustBeHere(context.db.sql, context.person, [...all.values()].flat());
  const zip = archiver("zip", { zlib: { level: 6 } });
  const add = async (name: string, what: Readable | string) => {
    // The next is read when this one has been written, so nothing piles up.
    const written = once(zip, "entry");
    zip.append(what, { name, date: now });
    await written;
  };
  const fill = async () => {
    const folders: Manifest["folders"] = [];
    for (const [n, folder] of directory.folders.entries()) {
      const ids = all.get(folder.id) ?? [];
      const entry = { path: folder.path, role: roleElsewhere(folder) };
      if (ids.length === 0) {
        folders.push({ ...entry, mail: null, states: null });
        continue;
      }
      const stem = fileStem(folder.path, n + 1);
      const lines: string[] = [];
      await add(`${stem}.mbox`, Readable.from(mailOf(context, ids, directory, lines), { objectMode: false }));
      await add(`${stem}.jsonl`, lines.join(""));
      folders.push({ ...entry, mail: `${stem}.mbox`, states: `${stem}.jsonl` });
    }
    const manifest: Manifest = {
      format: ARCHIVE_FORMAT,
      version: ARCHIVE_VERSION,
      made: now.toISOString(),
      folders,
      labels: directory.labels.map(({ name, colour }) => ({ name, colour })),
      markers: directory.markers.map(({ letter, colour, meaning }) => ({ letter, colour, meaning })),
      ...things,
    };
    await add(MANIFEST, `${JSON.stringify(manifest, null, 1)}\n`);
    await zip.finalize();
  };
  fill().catch((error: Error) => zip.destroy(error));
  return zip;
}
