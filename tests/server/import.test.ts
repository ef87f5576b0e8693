import { createHash } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { mboxEntry } from "@/core/mail";
import {
  exportMessages,
  importFile,
  listMessages,
  readIndex,
  readJob,
  readMessage,
  readRaw,
  readTest,
} from "@/server/act";
import { decodeIndex } from "@/core/columns";
import { doJob, ParsePool } from "@/server/jobs";
import { generate } from "../../demo/generate";
import { freshDatabase, WORKER, type Fresh } from "./database";

let fresh: Fresh;
let pool: ParsePool;
beforeAll(async () => {
  fresh = await freshDatabase();
  pool = new ParsePool(WORKER, 2);
});
afterAll(async () => {
  await pool.close();
  await fresh.drop();
});

async function* inPieces(bytes: Uint8Array, size = 10_007) {
  for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
}
async function bringIn(bytes: Uint8Array | string, folder: string) {
  const data = typeof bytes === "string" ? Buffer.from(bytes, "latin1") : bytes;
  const id = await importFile(fresh.context, "test.mbox", folder, inPieces(data));
  const [row] = await fresh.db.sql`select * from job where id = ${id}`;
  await doJob(fresh.db, row as never, pool);
  return readJob(fresh.context, id);
}
const list = (narrow: string) => listMessages(fresh.context, { narrow, order: "oldest", limit: 1000, after: null });

const NOW = new Date("2026-11-24T12:00:00Z");
const world = [...generate({ messages: 300, seed: 3, now: NOW })];
const mbox = Buffer.concat(world.map((m) => mboxEntry(m.raw, m.sender, m.date)));

test("mail of blocked senders comes in as junk, but only where it would have come into the inbox", async () => {
  await fresh.db.sql`insert into blocked (person, address) values (${fresh.context.person}, 'pest@spam.example')`;
  const letter = (n: number, from: string) =>
    `From x Mon Nov  2 09:00:00 2026\nFrom: ${from}\nSubject: pest ${n}\n\nText ${n}.\n\n`;
  await bringIn(letter(1, "Pest <PEST@spam.example>") + letter(2, "kind@larch.example"), "Inbox");
  await bringIn(letter(3, "pest@spam.example"), "Weather");
  const at = async (folder: string) => (await list(`folder=${folder} & subject~pest`)).rows.map((row) => row.subject);
  expect([await at("Inbox"), await at("Junk"), await at("Weather")]).toEqual([["pest 2"], ["pest 1"], ["pest 3"]]);
  await fresh.db.sql`delete from message_state`;
  await fresh.db.sql`delete from message`;
  await fresh.db.sql`delete from content`;
  await fresh.db.sql`delete from blocked`;
});

describe("import", () => {
  test("brings everything in, once, and gives it back byte for byte", async () => {
    expect(await bringIn(mbox, "Inbox")).toMatchObject({ state: "done", added: 300, doubles: 0, problems: [] });
    expect(await bringIn(mbox, "Weather")).toMatchObject({ added: 0, doubles: 300 });
    const { total } = await list("folder=Inbox");
    expect(total).toBe(300);
    const pieces: Buffer[] = [];
    for await (const piece of await exportMessages(
      fresh.context,
      await readTest(fresh.context, "folder=Inbox"),
      "mbox",
    ))
      pieces.push(Buffer.from(piece as Uint8Array));
    const again = await bringIn(Buffer.concat(pieces), "Archive");
    expect(again).toMatchObject({ added: 0, doubles: 300 });
    const hashes = new Set(world.map((m) => createHash("sha256").update(m.raw).digest("hex")));
    for (const row of (await list("folder=Inbox")).rows.slice(0, 40))
      expect(
        hashes.has(
          createHash("sha256")
            .update(await readRaw(fresh.context, row.id))
            .digest("hex"),
        ),
      ).toBe(true);
  });

  test("what it kept can be found, and one index of columns holds it", async () => {
    const bytes = await readIndex(fresh.context, { test: { kind: "all" } }, 100_000, null);
    const { columns } = decodeIndex(bytes.buffer as ArrayBuffer);
    expect(columns.count).toBe(300);
    expect([...columns.dateMs]).toEqual([...columns.dateMs].sort((a, b) => a - b));
    const threads = new Set(columns.thread);
    expect(threads.size).toBeLessThan(290);
    expect((await list("listmail & invite")).total).toBe(0);
    expect((await list("invite")).total).toBeGreaterThan(0);
  });

  test("goes on where a process died, without doubles or gaps", async () => {
    const second = [...generate({ messages: 900, seed: 11, now: NOW })];
    const id = await importFile(
      fresh.context,
      "cut.mbox",
      "Archive",
      inPieces(Buffer.concat(second.map((m) => mboxEntry(m.raw, m.sender, m.date)))),
    );
    const [row] = await fresh.db.sql`select * from job where id = ${id}`;
    // It dies over its second batch, once the first one is in, however fast or slow either goes.
    const dying = new ParsePool(WORKER, 1);
    const parse = dying.parse.bind(dying);
    let batches = 0;
    dying.parse = async (...batch) => {
      if (++batches !== 2) return parse(...batch);
      while ((await readJob(fresh.context, id)).added === 0) await new Promise((resolve) => setTimeout(resolve, 5));
      await dying.close();
      throw new Error("it died");
    };
    const cut = doJob(fresh.db, row as never, dying).catch(() => "cut off");
    expect(await cut).toBe("cut off");
    const half = await readJob(fresh.context, id);
    expect(half.state).toBe("running");
    expect(half.added).toBeLessThan(900);
    const [now] = await fresh.db.sql`select * from job where id = ${id}`;
    await doJob(fresh.db, now as never, pool);
    const done = await readJob(fresh.context, id);
    expect(done.state).toBe("done");
    expect(done.added + done.doubles).toBe(900);
    expect((await fresh.db.sql`select count(*)::int as n from job_chunk where job = ${id}`)[0]!.n).toBe(0);
  });
});

const entry = (body: string) => `From x@post.example Tue Nov 24 10:00:00 2026\n${body}\n`;
const NESTED = Array.from({ length: 100 }, (_, i) => `Content-Type: multipart/mixed; boundary=b${i}\n\n--b${i}\n`).join(
  "",
);

describe("mail that is not clean", () => {
  test("comes in as well as it can, with what was wrong, and nothing else is lost", async () => {
    const hostile = [
      "Subject: no date at all\nFrom: a@post.example\n\nbody\n",
      "Subject: odd date\nFrom: a@post.example\nDate: the day before yesterday\n\nbody\n",
      `Subject: wrong charset\nFrom: a@post.example\nDate: Mon, 02 Nov 2026 09:00:00 +0000\nContent-Type: text/plain; charset=x-made-up\n\nGr\xfc\xdfe\n`,
      "Subject: 8-bit Gr\xfc\xdfe header\nFrom: M\xfcller <m@post.example>\nDate: Mon, 02 Nov 2026 09:00:00 +0000\n\nbody\n",
      "Subject: broken mime\nFrom: a@post.example\nDate: Mon, 02 Nov 2026 09:00:00 +0000\nContent-Type: multipart/mixed; boundary=never\n\n--other\nno such boundary\n",
      `Subject: giant header\nFrom: a@post.example\nDate: Mon, 02 Nov 2026 09:00:00 +0000\nX-Long: ${"y".repeat(600_000)}\n\nbody after it\n`,
      `Subject: nested deep\nFrom: a@post.example\nDate: Mon, 02 Nov 2026 09:00:00 +0000\n${NESTED}\nat the bottom\n`,
      "",
      "\n\n\n",
      "Subject: a NUL \0 and half a pair =?utf-8?B?7aCA?=\nFrom: a@post.example\nDate: Mon, 02 Nov 2026 09:00:00 +0000\n\nbo\0dy\n",
      "Subject: last and clean\nFrom: z@post.example\nMessage-ID: <clean@post.example>\nDate: Mon, 02 Nov 2026 09:00:00 +0000\n\nbody\n",
    ];
    const job = await bringIn(`junk before the first\n${hostile.map(entry).join("\n")}`, "Odd mail");
    expect(job.state).toBe("done");
    expect(job.problems).toEqual([{ offset: 0, reason: expect.stringContaining("before the first message") }]);
    expect(job.added + job.doubles).toBe(hostile.length);
    const { rows } = await list('folder="Odd mail"');
    const named = async (part: string) =>
      readMessage(fresh.context, rows.find((row) => row.subject.includes(part))!.id);
    expect((await named("no date")).notes.join()).toMatch(/no date/);
    expect((await named("odd date")).notes.join()).toMatch(/cannot be read/);
    expect((await named("Grüße")).from.name).toBe("Müller");
    expect((await named("giant")).notes.join()).toMatch(/very long/);
    expect((await named("nested")).notes.length).toBeGreaterThan(0);
    expect((await named("last and clean")).notes).toEqual([]);
    expect(rows.some((row) => row.subject === "" && row.from.address === "")).toBe(true);
  });

  test("a single message file is one message", async () => {
    const job = await bringIn(
      "Subject: one eml\r\nFrom: a@post.example\r\nDate: Mon, 02 Nov 2026 09:00:00 +0000\r\n\r\nFrom here on it is text\r\n",
      "Eml",
    );
    expect(job).toMatchObject({ added: 1 });
    const [row] = (await list("folder=Eml")).rows;
    expect(Buffer.from(await readRaw(fresh.context, row!.id)).toString()).toMatch(
      /^Subject: one eml\r\n[\s\S]*text\r\n$/,
    );
  });
});

describe("threads by subject", () => {
  let next = 0;
  const letter = (from: string, subject: string, more = "") =>
    `From x Mon Nov  2 09:00:00 2026\nFrom: ${from}\nTo: bookings@larchhuts.example\nMessage-ID: <t${next++}@x.example>\nDate: Mon, 2 Nov 2026 09:${String(next).padStart(2, "0")}:00 +0000\nSubject: ${subject}\n${more}\nText ${next}.\n\n`;
  const threadsOf = async (narrow: string) => (await list(narrow)).rows.map((row) => row.thread);
  const different = (threads: readonly number[]) => new Set(threads).size;

  test("strangers who answer about the same are no thread; the same people are, in another import too", async () => {
    await bringIn(
      Array.from({ length: 30 }, (_, i) => letter(`stranger${i}@post.example`, "Re: Larch request")).join(""),
      "Inbox",
    );
    expect(different(await threadsOf('subject~"larch request"'))).toBe(30);
    await bringIn(letter("Stranger 4 <STRANGER4@post.example>", "AW: Larch request"), "Inbox");
    expect(different(await threadsOf('subject~"larch request" & from~stranger4@'))).toBe(1);
    expect(different(await threadsOf('subject~"larch request"'))).toBe(30);
  });

  test("an own reply belongs to whom it goes to", async () => {
    const own = letter("bookings@larchhuts.example", "Re: Tarn dates").replace(
      "To: bookings@larchhuts",
      "To: ada@post",
    );
    await bringIn(letter("ada@post.example", "Tarn dates") + letter("bea@post.example", "Tarn dates"), "Inbox");
    await bringIn(own, "Sent");
    const rows = (await list('subject~"tarn dates"')).rows;
    const of = (address: string) => rows.find((row) => row.from.address === address)!.thread;
    expect(of("bookings@larchhuts.example")).toBe(of("ada@post.example"));
    expect(of("bookings@larchhuts.example")).not.toBe(of("bea@post.example"));
  });

  test("junk joins no thread, whatever it names, nor does anything join junk", async () => {
    await bringIn(letter("cleo@post.example", "Corrie key"), "Inbox");
    const id = `<t${next - 1}@x.example>`;
    await bringIn(letter("cleo@post.example", "Re: Corrie key", `In-Reply-To: ${id}\nReferences: ${id}\n`), "Junk");
    await bringIn(letter("cleo@post.example", "Re: Corrie key"), "Inbox");
    const rows = (await list('subject~"corrie key"')).rows;
    const [first, junk, reply] = rows.map((row) => row.thread);
    expect(reply).toBe(first);
    expect(junk).not.toBe(first);
    // Junk of one sender that answers junk is a thread of its own.
    await bringIn(letter("pest@post.example", "Offer"), "Junk");
    const junkId = `<t${next - 1}@x.example>`;
    await bringIn(letter("pest@post.example", "Re: Offer", `In-Reply-To: ${junkId}\n`), "Junk");
    expect(different(await threadsOf("subject~offer & from~pest"))).toBe(1);
  });
});
