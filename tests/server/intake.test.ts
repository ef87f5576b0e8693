import { randomUUID } from "node:crypto";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as pause } from "node:timers/promises";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  createFolder,
  importFile,
  listMessages,
  readJob,
  readMessage,
  readRaw,
  removeFolder,
  runMacro,
} from "@/server/act";
import type { Transaction } from "@/server/db";
import { clearAway, doJob, findJob, indexWords, ParsePool } from "@/server/jobs";
import { inTurn } from "@/server/run";
import { unindexed, writeWords } from "@/server/search";
import { BOMBS, HARMLESS, mbox } from "../fixtures/bombs";
import { fillWithMessages, freshDatabase, WORKER, type Fresh } from "./database";

let fresh: Fresh;
beforeAll(async () => void (fresh = await freshDatabase()));
afterAll(() => fresh.drop());

async function* whole(data: Uint8Array) {
  yield data;
}

const begin = (data: Uint8Array, folder = "Inbox") => importFile(fresh.context, "test.mbox", folder, whole(data));
const finish = async (id: number, pool: ParsePool) => {
  await doJob(fresh.db, (await findJob(fresh.db.sql, fresh.context.person, id))!, pool);
  return readJob(fresh.context, id);
};
const rows = async (narrow: string) =>
  (await listMessages(fresh.context, { narrow, order: "oldest", limit: 100, after: null })).rows;
const plain = (n: number, from = "ines@larch.example", body = "Beds for two.") =>
  `From: Ines <${from}>\nSubject: plain ${n} ${randomUUID()}\nDate: Mon, 02 Nov 2026 10:0${n}:00 +0100\nMessage-ID: <${randomUUID()}@larch.example>\n\n${body}\n`;

describe("messages that were made to stop an intake", () => {
  test("come in with headers and source, said in their flaws; what stands beside them comes in whole", async () => {
    const bombs = Object.values(BOMBS);
    const good = Object.values(HARMLESS);
    const pool = new ParsePool(WORKER, 2, { ms: 4000, megabytes: 512 });
    const job = await finish(await begin(mbox([plain(1), ...bombs, ...good, plain(2)])), pool);
    expect(job).toMatchObject({ state: "done", added: bombs.length + good.length + 2, problems: [] });
    const { context, db } = fresh;
    const flaws = await db.sql<{ subject: string; flaws: string[] }[]>`
      select subject, flaws from message where from_address = 'gate@bombs.example'`;
    expect(
      flaws
        .filter((row) => row.flaws.includes("heavy"))
        .map((row) => row.subject)
        .sort(),
    ).toEqual(Object.keys(BOMBS).sort());
    expect((await rows("subject~plain")).map((row) => row.preview)).toEqual(["Beds for two.", "Beds for two."]);

    // Reading one of them shows its headers and why there is no more, and costs nothing.
    const bomb = (await rows('subject="blank lines"'))[0]!;
    const message = await readMessage(context, bomb.id);
    expect(message.headers.map((header) => header.name)).toContain("Message-ID");
    expect(message.notes.join(" ")).toMatch(/headers and its source only/);
    expect(message.text ?? "").toBe("");
    // The source is there as it came.
    expect(
      Buffer.from(await readRaw(context, bomb.id))
        .toString("latin1")
        .startsWith(BOMBS["blank lines"]!.slice(0, 5000)),
    ).toBe(true);

    // Its words are those of its headers, and a macro that reads texts finds none in it.
    await indexWords(
      db,
      () => pool,
      () => false,
    );
    expect((await rows("parts without end")).map((row) => row.subject)).toContain("parts without end");
    const run = {
      id: randomUUID(),
      macro: { name: "x", steps: [{ do: "note", text: { take: "amount in text", else: "none" } }] },
    };
    await runMacro(context, { ...run, target: { ids: [bomb.id] } } as never);
    expect((await readMessage(context, bomb.id)).note).toBe("none");
    // What each of them may cost is of the processor's time, which a busy machine gives slowly.
  }, 180_000);

  test("one that takes more memory than a thread has ends the thread, not the import", async () => {
    const pool = new ParsePool(WORKER, 1, { ms: 120_000, megabytes: 96 });
    const raw = BOMBS["parts without end"]!.replaceAll("parts without end", "too much memory").replace("without", "w");
    const job = await finish(await begin(mbox([plain(3), raw, plain(4)])), pool);
    expect(job).toMatchObject({ state: "done", added: 3, problems: [] });
    const [row] = await fresh.db.sql<{ flaws: string[] }[]>`
      select flaws from message where subject = 'too much memory'`;
    expect(row!.flaws).toContain("heavy");
    await pool.close();
  });

  test("a thread that takes long to come to be is no message's fault", async () => {
    const folder = mkdtempSync(join(tmpdir(), "tachyne-slow-"));
    const slow = join(folder, "worker.mjs");
    // On a machine that is busy with other things the first lines of a program may be this far away.
    writeFileSync(
      slow,
      `for (const end = Date.now() + 4000; Date.now() < end;);\nawait import(${JSON.stringify(WORKER)});\n`,
    );
    const pool = new ParsePool(slow, 1, { ms: 1500, megabytes: 512 });
    const raws = [plain(6), BOMBS["parts without end"]!, plain(7)].map((raw) => Buffer.from(raw, "latin1"));
    const items = await pool.parse(raws, new Date());
    await pool.close();
    rmSync(folder, { recursive: true });
    expect(items.map(({ parsed }) => parsed.flaws.includes("heavy"))).toEqual([false, true, false]);
  });

  test("ids and names that PostgreSQL cannot hold are mended, and stop nothing", async () => {
    const pool = new ParsePool(WORKER, 1);
    const odd = `From: "N\0ul" <a@odd.example>\nSubject: odd \0 one\nMessage-ID: <o\0d@odd.example>\nReferences: <x\0y@odd.example> <fine@odd.example>\nX-Keywords: a\0b\n\nx\0y\n`;
    const job = await finish(await begin(mbox([odd, plain(5)])), pool);
    expect(job).toMatchObject({ state: "done", added: 2, problems: [] });
    await pool.close();
  });
});

describe("where mail goes", () => {
  test("a folder removed since the import began gives way to the inbox; a sender blocked since is blocked", async () => {
    const { context, db } = fresh;
    const pool = new ParsePool(WORKER, 1);
    const folder = await createFolder(context, { path: "Going" });
    const id = await begin(mbox([plain(1, "late@going.example")]), "Going");
    await expect(removeFolder(context, folder.id, { to: null, merge: false })).rejects.toThrow("Wait for its end");
    // As if it had been removed by a version that did not look.
    await db.sql`update folder set removed = true where id = ${folder.id}`;
    await finish(id, pool);
    expect((await rows("from~going")).map((row) => row.folder)).toEqual(["Inbox"]);
    const [sender] = await rows("from~going");
    const next = await begin(mbox([plain(2, "late@going.example")]));
    await runMacro(context, {
      id: randomUUID(),
      macro: { name: "x", steps: [{ do: "block sender" }] },
      target: { ids: [sender!.id] },
    } as never);
    await finish(next, pool);
    expect((await rows("from~going")).map((row) => row.folder)).toEqual(["Inbox", "Junk"]);
    await pool.close();
  });
});

describe("what is left behind", () => {
  const words = async () =>
    (
      await fresh.db.sql`
    select 1 from message_words w where not exists (select 1 from message m where m.id = w.message)`
    ).length;

  test("a message deleted while its words are being indexed takes them along", async () => {
    const { context, db } = fresh;
    await db.sql`update word_index set through = (select max(id) from message)`;
    const [id, other] = await fillWithMessages(fresh, 2);
    const items = (await unindexed(db.sql, context.person, 10)).map((row) => ({
      id: row.id,
      content: row.content,
      vector: "'beds':1",
      ccKey: " ",
      fileKey: " ",
      via: "",
      viaKey: " ",
    }));
    expect(items.map((item) => item.id)).toEqual([id, other]);
    const remove = (message: number) =>
      runMacro(context, {
        id: randomUUID(),
        macro: { name: "x", steps: [{ do: "delete for good" }] },
        target: { ids: [message] },
      } as never);
    let deleting: Promise<unknown> = Promise.resolve();
    await db.sql.begin(async (tx) => {
      await writeWords(tx as Transaction, context.person, items.slice(0, 1));
      deleting = remove(id!);
      // The deletion has come as far as it can: it waits for the message's row.
      for (;;) {
        const [row] = await db.sql`
          select 1 from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'
            and query like '%delete from message%'`;
        if (row) break;
        await pause(10);
      }
    });
    await deleting;
    expect(await words()).toBe(0);
    // The other way round: it was deleted between being read and being written.
    await remove(other!);
    await db.sql.begin((tx) => writeWords(tx as Transaction, context.person, items.slice(1)));
    expect(await words()).toBe(0);
  });

  test("an upload that was cut off is cleared away after a while, one that goes on is not", async () => {
    const { db } = fresh;
    await db.sql`delete from job`;
    const job = async (age: string) => {
      const [row] = await db.sql<{ id: number }[]>`
        insert into job (person, state, name, folder, touched_at)
        values (${fresh.context.person}, 'receiving', 'x', 1, now() - ${age}::interval) returning id`;
      await db.sql`insert into job_chunk (job, position, data) values (${row!.id}, 0, '\\x00')`;
      return row!.id;
    };
    await job("2 hours");
    const fresher = await job("10 minutes");
    expect(await clearAway(db)).toBe(1);
    expect(await db.sql`select id from job`).toMatchObject([{ id: fresher }]);
    expect(await db.sql`select job from job_chunk`).toMatchObject([{ job: fresher }]);
  });

  test("a file that breaks off leaves nothing", async () => {
    const { db } = fresh;
    await db.sql`delete from job`;
    async function* broken() {
      yield Buffer.alloc(1024 * 1024 + 1);
      throw new Error("cut");
    }
    await expect(importFile(fresh.context, "x", "Inbox", broken())).rejects.toThrow("cut");
    expect(
      await db.sql`select 1 from job union all select 1 from job_chunk where job > 0 and position > 0`,
    ).toHaveLength(0);
  });

  test("a turn that fails leaves no gap that anybody waits for", async () => {
    const { context, db } = fresh;
    const seq = async () => (await db.sql<{ seq: number }[]>`select seq from person`)[0]!.seq;
    const before = await seq();
    await expect(inTurn(db, context.person, async () => Promise.reject(new Error("no")))).rejects.toThrow("no");
    expect(await seq()).toBe(before);
  });
});

test("sources are stored byte for byte, few of them and many at once", async () => {
  const { context, db } = fresh;
  const pool = new ParsePool(WORKER, 1);
  // Every byte there is, but for zero and those that end lines: some make no text at all.
  const all = Buffer.from(Array.from({ length: 255 }, (_, i) => i + 1).filter((byte) => byte !== 10 && byte !== 13));
  const message = (n: number, times: number) =>
    Buffer.concat([
      Buffer.from(`From: x@bytes.example\nSubject: bytes ${times} ${n}\nMessage-ID: <${times}.${n}@bytes.example>\n\n`),
      ...Array.from({ length: times }, () => Buffer.concat([all, Buffer.from("\n")])),
    ]);
  for (const [count, times] of [
    [2, 1],
    [6, 400],
  ] as const) {
    const sources = Array.from({ length: count }, (_, n) => message(n, times));
    const framed = sources.flatMap((source) => [
      Buffer.from("From - Mon Nov  2 10:00:00 2026\n"),
      source,
      Buffer.from("\n"),
    ]);
    expect(await finish(await begin(Buffer.concat(framed)), pool)).toMatchObject({ added: count, problems: [] });
    const stored = await db.sql<{ raw: Uint8Array }[]>`
      select c.raw from message m join content c on c.person = m.person and c.id = m.content
      where m.person = ${context.person} and m.subject like ${`bytes ${times} %`} order by m.subject`;
    // Lines end as mail has them on its way (RFC 5322, section 2.1), or as they came.
    const plainly = (bytes: Uint8Array) => Buffer.from(bytes).toString("latin1").replaceAll("\r\n", "\n").trimEnd();
    expect(stored.map(({ raw }) => plainly(raw))).toEqual(sources.map(plainly));
  }
  await pool.close();
});
