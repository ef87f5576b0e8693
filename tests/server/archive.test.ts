import { randomBytes, randomUUID } from "node:crypto";
import { gzipSync } from "node:zlib";
import archiver from "archiver";
import { pack } from "tar-stream";
import { afterAll, afterEach, beforeAll, beforeEach, expect, test } from "vitest";
import { newEvent } from "@/core/api";
import { runId } from "@/core/id";
import type { Step } from "@/core/macro";
import { mboxEntry } from "@/core/mail";
import { changeEvent, createCalendar, createEvent, exportAll, importFile, readJob, runMacro } from "@/server/act";
import { doJob, ParsePool } from "@/server/jobs";
import { generate } from "../../demo/generate";
import { letter } from "../fixtures/mail-service";
import { freshDatabase, WORKER, type Fresh } from "./database";

/** Everything out as one file, and in again: into another mailbox, and twice. */

const NOW = new Date("2026-11-24T12:00:00Z");
let pool: ParsePool;
let here: Fresh;
const others: Fresh[] = [];
beforeAll(() => {
  pool = new ParsePool(WORKER, 2);
});
afterAll(() => pool.close());
beforeEach(async () => {
  here = await freshDatabase();
});
afterEach(async () => {
  for (const fresh of [here, ...others.splice(0)]) await fresh.drop();
});

async function* bytes(data: Uint8Array) {
  for (let at = 0; at < data.length; at += 70_000) yield data.subarray(at, at + 70_000);
}

async function bring(fresh: Fresh, data: Uint8Array, folder = "Inbox", by = pool) {
  const id = await importFile(fresh.context, "brought.zip", folder, bytes(data));
  const rows = () => fresh.db.sql`select * from job where id = ${id}`;
  await doJob(fresh.db, (await rows())[0] as never, by);
  return readJob(fresh.context, id);
}

async function wholeOf(stream: AsyncIterable<unknown>): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  for await (const part of stream) parts.push(part as Uint8Array);
  return Buffer.concat(parts);
}

const run = (fresh: Fresh, narrow: string, ...steps: Step[]) =>
  runMacro(fresh.context, {
    id: runId(randomUUID()),
    macro: { name: "Test", steps },
    target: { narrow },
    answers: {},
    at: NOW.toISOString(),
  });

/** All there is, by what it is called: read with no code of the app. */
async function allOf({ db }: Fresh) {
  const messages = await db.sql`
    select encode(sha256(c.raw), 'hex') as source, f.path, s.bits, k.letter, s.flag_start, s.flag_due, s.flag_note, s.note,
      s.defer_until, s.back_since, s.await_until, s.hand_until, m.traits, m.subject,
      array(select l.name from label l where l.person = s.person and l.id = any(s.labels) order by 1) as labels
    from message m join message_state s on s.person = m.person and s.message = m.id
      join folder f on f.person = s.person and f.id = s.folder
      join content c on c.person = m.person and c.id = m.content
      left join marker k on k.person = s.person and k.id = s.marker
    order by source, f.path, s.bits, s.note`;
  const tasks = await db.sql`
    select t.title, t.due, t.estimate, t.about, t.done, m.subject from task t
      left join message m on m.person = t.person and m.id = t.message order by 1, 2, 4`;
  const contacts = await db.sql`select address, name, note from contact order by 1`;
  const labels = await db.sql`select name, colour from label where not removed order by 1`;
  const markers = await db.sql`select letter, colour, meaning from marker order by 1`;
  const folders = await db.sql`select path, role from folder where not removed order by 1`;
  const events = await db.sql`
    select k.name, k.colour, e.uid, e.instead, e.starts, e.ends, e.value - 'calendar' - 'task' as value, t.title as task,
      m.subject
    from calendar k left join event e on e.person = k.person and e.calendar = k.id
      left join task t on t.person = e.person and t.id = e.task and t.id = (e.value->>'task')::bigint
      left join message m on m.person = e.person and m.id = e.message order by 1, 3, 4`;
  return JSON.parse(JSON.stringify({ messages, tasks, contacts, labels, markers, folders, events })) as Record<
    string,
    unknown[]
  >;
}

async function world(): Promise<void> {
  const all = [...generate({ messages: 240, seed: 5, now: NOW })];
  const mbox = (part: typeof all) => Buffer.concat(part.map((m) => mboxEntry(m.raw, m.sender, m.date)));
  await bring(here, mbox(all.slice(0, 120)));
  await bring(here, mbox(all.slice(120)), "Bookings/Groups");
  // One that does not end with a line end, and one that looks like a mailbox inside.
  await bring(here, Buffer.from("Subject: cut off\r\nFrom: a@huts.example\r\n\r\nno end"));
  await bring(here, Buffer.from("Subject: quoted\nFrom: a@huts.example\n\nFrom here on\n>From there\n"));
  await run(here, "subject~invoice", { do: "flag", due: "+3d", note: 'pay "it"' }, { do: "label", add: "Invoice" });
  await run(here, "from~warden", { do: "marker", set: "W" }, { do: "note", text: "Ring back, Zürich" }, { do: "read" });
  await run(here, "attachment", { do: "pin", until: "+9d" }, { do: "copy", to: "Archive" });
  await run(here, "folder=Inbox & subject~weather", { do: "defer", until: "+2d" });
  await run(here, "subject~week", { do: "owe" }, { do: "make task", title: "Write back", due: "+1d" });
  await run(here, "subject~plan", { do: "await an answer", for: "+4d" }, { do: "add contact" });
  await run(
    here,
    'subject="cut off"',
    { do: "make task", title: "Mend it" },
    { do: "block time", at: "2026-12-03 9:00", minutes: 45 },
  );
  const huts = await createCalendar(here.context, { name: "Huts", colour: "plum" });
  const event = {
    calendar: huts.id,
    title: "Stove, üb",
    start: "2026-12-01T10:00",
    length: 3600,
    zone: "Europe/Zurich",
  };
  const made = await createEvent(here.context, newEvent.parse({ ...event, rule: "FREQ=DAILY;COUNT=5", remind: 10 }));
  const moved = { scope: "one", at: "2026-12-02T10:00", start: "2026-12-02T15:00" } as const;
  await changeEvent(here.context, made.id, moved);
}

test("what is taken out and brought in elsewhere is the same, message by message; a second time changes nothing", async () => {
  await world();
  const before = await allOf(here);
  expect(before.messages!.length).toBeGreaterThan(260);
  expect(before.tasks!.length).toBeGreaterThan(1);
  expect(before.events).toMatchObject([{ name: "Huts" }, { name: "Huts" }, { task: "Mend it", subject: "cut off" }]);
  const file = await wholeOf(await exportAll(here.context, NOW));
  expect(await allOf(here)).toEqual(before);
  const other = await freshDatabase();
  others.push(other);
  await run(other, "", { do: "read" });
  const job = await bring(other, file);
  expect(job).toMatchObject({ state: "done", problems: [] });
  expect(await allOf(other)).toEqual(before);
  const again = await bring(other, file);
  expect(again).toMatchObject({ state: "done", added: 0 });
  expect(await allOf(other)).toEqual(before);
  // Back where it came from it changes nothing either, and what was decided since stays.
  await run(here, "folder=Inbox", { do: "archive" });
  const since = await allOf(here);
  await bring(here, file);
  expect(await allOf(here)).toEqual(since);
});

test("what is moved while everything is written is in it once; what is deleted meanwhile is in neither file", async () => {
  // More than fits on the way out: what follows the archive is read only once somebody takes it.
  const large = randomBytes(4 << 20)
    .toString("base64")
    .replace(/.{76}/g, "$&\n");
  await bring(here, Buffer.from(`${letter(9, "large")}${large}`), "Archive");
  for (let n = 1; n <= 3; n++) await bring(here, Buffer.from(letter(n)), "Wardens");
  const stream = await exportAll(here.context, NOW);
  await run(here, 'subject="number 1"', { do: "archive" });
  await run(here, 'subject="number 2"', { do: "delete for good" });
  const other = await freshDatabase();
  others.push(other);
  expect(await bring(other, await wholeOf(stream))).toMatchObject({ state: "done", problems: [] });
  expect(await lines(other)).toEqual(["large: Archive 0 0", "number 1: Wardens 0 0", "number 3: Wardens 0 0"]);
});

test("an import of everything that is cut off in the middle goes on where it was", async () => {
  await world();
  const file = await wholeOf(await exportAll(here.context, NOW));
  const other = await freshDatabase();
  others.push(other);
  const id = await importFile(other.context, "all.zip", "Inbox", bytes(file));
  const rowOf = async () => (await other.db.sql`select * from job where id = ${id}`)[0] as never;
  for (let most = 1; ; most++) {
    let parsed = 0;
    const failing = {
      size: 0,
      parse: (raws: readonly Uint8Array[], now: Date) => {
        if (++parsed > 1 && most < 6) throw new Error("killed");
        return pool.parse(raws, now);
      },
    } as unknown as ParsePool;
    const failed = await doJob(other.db, await rowOf(), failing).then(
      () => false,
      () => true,
    );
    if (!failed) break;
    expect(most).toBeLessThan(8);
  }
  expect(await allOf(other)).toEqual(await allOf(here));
});

const tarOf = (files: readonly (readonly [string, string])[]): Promise<Buffer> => {
  const tar = pack();
  for (const [name, text] of files) tar.entry({ name }, text);
  tar.finalize();
  return wholeOf(tar);
};
const lines = async (fresh: Fresh) =>
  (
    await fresh.db.sql<{ subject: string; path: string; bits: number; traits: number }[]>`
      select m.subject, f.path, s.bits, m.traits & 32 as traits from message m
        join message_state s on s.person = m.person and s.message = m.id
        join folder f on f.person = s.person and f.id = s.folder order by m.subject`
  ).map(({ subject, path, bits, traits }) => `${subject}: ${path} ${bits} ${traits}`);

test("a Maildir comes in with its folders and flags, packed with gzip or not", async () => {
  const files = [
    ["Maildir/cur/1.host:2,S", letter(1)],
    ["Maildir/cur/2.host:2,FRS", letter(2)],
    ["Maildir/new/3.host", letter(3)],
    ["Maildir/.Wardens.Rota/cur/4.host:2,", letter(4)],
    ["Maildir/cur/5.host:2,ST", letter(5)],
    ["Maildir/dovecot-uidlist", "3 V1"],
  ] as const;
  const tar = await tarOf(files);
  const wanted = [
    "number 1: Bookings 1 0",
    "number 2: Bookings 9 32",
    "number 3: Bookings 0 0",
    "number 4: Wardens/Rota 0 0",
  ];
  expect(await bring(here, gzipSync(tar), "Bookings")).toMatchObject({ state: "done", added: 4, problems: [] });
  expect(await lines(here)).toEqual(wanted);
  expect(await bring(here, tar, "Bookings")).toMatchObject({ added: 0, doubles: 4 });
  expect(await lines(here)).toEqual(wanted);
});

test("a folder of a server, as mailbox files and letters in directories, comes in as it is named", async () => {
  const whole = archiver("zip");
  const mbox = Buffer.concat([1, 2].map((n) => Buffer.from(mboxEntry(Buffer.from(letter(n)), "a@huts.example", NOW))));
  whole.append(mbox, { name: "Bookings/Groups.mbox" });
  whole.append(letter(3), { name: "Lost property/one.eml" });
  whole.append(letter(4), { name: "two.eml" });
  whole.append("not mail", { name: "readme.txt" });
  whole.append('{"format": "of something else"}', { name: "manifest.json" });
  void whole.finalize();
  expect(await bring(here, await wholeOf(whole), "Archive")).toMatchObject({ state: "done", added: 4 });
  expect(await lines(here)).toEqual([
    "number 1: Bookings/Groups 0 0",
    "number 2: Bookings/Groups 0 0",
    "number 3: Lost property 0 0",
    "number 4: Archive 0 0",
  ]);
});

test("an archive without mail, a damaged one and one of another version say so", async () => {
  const nothing = archiver("zip");
  nothing.append("x", { name: "readme.txt" });
  void nothing.finalize();
  await expect(bring(here, await wholeOf(nothing))).rejects.toThrow(/no mail in it/);
  await expect(bring(here, gzipSync(letter(1)))).rejects.toThrow(/no tar. Unpack it/);
  const newer = archiver("zip");
  newer.append(JSON.stringify({ format: "tachyne-archive", version: 9 }), { name: "manifest.json" });
  void newer.finalize();
  await expect(bring(here, await wholeOf(newer))).rejects.toThrow(/another version/);
  const file = await wholeOf(await exportAll(here.context, NOW));
  await expect(bring(here, file.subarray(0, file.length - 30))).rejects.toThrow();
  expect(await lines(here)).toEqual([]);
});
