import { cpus, totalmem } from "node:os";
import { performance } from "node:perf_hooks";
import { randomUUID } from "node:crypto";
import { writeFileSync } from "node:fs";
import { ColumnCursor, decodeColumns } from "@/core/columns";
import { messageId, personId, runId } from "@/core/id";
import { mboxEntry } from "@/core/mail";
import { plan } from "@/core/macro";
import { matcher, readNarrow } from "@/core/narrow";
import { begin, importFile, readDirectory, readIndex, runMacro, takeBack, type Context } from "@/server/act";
import { migrateDatabase, openDatabase } from "@/server/db";
import { doJob, ParsePool } from "@/server/jobs";
import { readStates } from "@/server/store";
import { generate } from "../demo/generate";

/**
 * Speed as ratios to floors measured in the same run: absolute times drift between machines. Each figure is
 * the median of several tries.
 */
const [url, migrations, worker, count = "100000", out] = process.argv.slice(2);
if (!url || !migrations || !worker) throw new Error("usage: bench URL MIGRATIONS WORKER [MESSAGES] [OUT.json]");
const MESSAGES = Number(count);
const RUN = 10_000;
const FIVE = [
  { do: "label", add: "Invoice" },
  { do: "flag", due: "+3d", note: "beds" },
  { do: "toggle read" },
  { do: "marker", next: true },
  { do: "move", to: "Archive" },
] as const;

interface Line {
  readonly what: string;
  readonly ms: number;
  readonly floor: string;
  readonly floorMs: number;
  readonly budget: number | null;
}
const lines: Line[] = [];
const say = (text: string) => process.stderr.write(`${text}\n`);
const median = (values: readonly number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!;
async function timed(work: () => unknown): Promise<number> {
  const start = performance.now();
  await work();
  return performance.now() - start;
}
async function medianOf(tries: number, work: () => unknown): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < tries; i++) times.push(await timed(work));
  return median(times);
}

await migrateDatabase(url, migrations);
const db = openDatabase(url, 4);
const { person } = await begin(db, {
  name: "x",
  address: "x@post.example",
  aliases: [],
  zone: "Europe/Zurich",
  folders: [],
  labels: [["Invoice", "amber"]],
});
const context: Context = { db, person: personId(person), zone: "Europe/Zurich" };
const { sql } = db;

say("import against the parser alone");
const world = [...generate({ messages: 4000, seed: 5, now: new Date() })];
const threads = Math.max(1, Math.min(4, cpus().length));
const pool = new ParsePool(worker, threads);
const parseAll = async () => {
  const raws = world.map((m) => new Uint8Array(m.raw));
  const batches: Promise<unknown>[] = [];
  for (let at = 0; at < raws.length; at += 100) batches.push(pool.parse(raws.slice(at, at + 100), new Date()));
  await Promise.all(batches);
};
await parseAll();
const parseMs = await medianOf(3, parseAll);
const file = Buffer.concat(world.map((m) => mboxEntry(m.raw, m.sender, m.date)));
async function* pieces() {
  for (let at = 0; at < file.length; at += 1 << 20) yield file.subarray(at, at + (1 << 20));
}
const id = await importFile(context, "bench.mbox", "Inbox", pieces());
const [job] = await sql`select * from job where id = ${id}`;
const importMs = await timed(() => doJob(db, job as never, pool));
await pool.close();
lines.push({
  what: `import of ${world.length} messages`,
  ms: importMs,
  floor: "parsing them alone",
  floorMs: parseMs,
  budget: 1 / 0.8,
});

say(`filling up to ${MESSAGES} messages`);
await sql`
  with n as (select n, (n % ${world.length}) as k from generate_series(1, ${MESSAGES - world.length}) n),
  base as (select *, row_number() over (order by id) - 1 as k from message where person = ${person}),
  m as (insert into message (person, content, thread, date, size, traits, from_name, from_address, recipients, cc, subject, preview,
      list, message_id, attachments, flaws, from_key, to_key, subject_key, preview_key, list_key)
    select b.person, b.content, b.thread, b.date - n.n * interval '3 minutes', b.size, b.traits, b.from_name, b.from_address,
      b.recipients, b.cc, b.subject, b.preview, b.list, null, b.attachments, b.flaws, b.from_key, b.to_key,
      b.subject_key, b.preview_key, b.list_key from n join base b using (k) returning id)
  insert into message_state (person, message, folder, bits) select ${person}, id, 1, (id % 3 = 0)::int from m`;
await sql`vacuum analyze message_state`;
await sql`vacuum analyze message`;
await sql`checkpoint`;

say("a run of five steps on 10,000 messages against one UPDATE");
const ids = (
  await sql<{ id: number }[]>`select message as id from message_state where folder = 1 order by message limit ${RUN}`
).map((r) => r.id);
const runTimes: number[] = [];
const undoTimes: number[] = [];
const floorTimes: number[] = [];
for (let i = 0; i < 9; i++) {
  // The floor: the same columns of the same rows, nothing read, compared or written down; rolled back.
  const floor = sql
    .begin(async (tx) => {
      floorTimes.push(
        await timed(
          () => tx`update message_state set folder = 2, bits = bits | 9, labels = '{1}', marker = 1, flag_due = now(), flag_note = 'beds'
            where person = ${person} and message = any(${ids}::bigint[])`,
        ),
      );
      throw new Error("roll back");
    })
    .catch(() => undefined);
  await floor;
  const run = randomUUID();
  runTimes.push(
    await timed(() => runMacro(context, { id: run, macro: { name: "Five", steps: [...FIVE] }, target: { ids } })),
  );
  undoTimes.push(await timed(() => takeBack(context, "undo", runId(run))));
}
lines.push({
  what: "five steps on 10,000",
  ms: median(runTimes),
  floor: "one UPDATE",
  floorMs: median(floorTimes),
  budget: 1.5,
});
lines.push({
  what: "taking it back",
  ms: median(undoTimes),
  floor: "one UPDATE",
  floorMs: median(floorTimes),
  budget: 1.5,
});

say("planning");
const directory = await readDirectory(context);
const states = await readStates(sql, context.person, ids.map(messageId));
const apart = ids.map((raw) => ({ id: messageId(raw), state: { ...states.get(messageId(raw))! } }));
const planMs = await medianOf(9, () => plan(FIVE, apart, {}, { directory, now: new Date(), zone: "Europe/Zurich" }));
const loopMs = await medianOf(9, () =>
  apart.map(({ state }) => ({ ...state, folder: 2, read: !state.read, marker: 1, labels: [1] })),
);
lines.push({
  what: "planning 10,000 × 5",
  ms: planMs,
  floor: "a plain loop over the rows",
  floorMs: loopMs,
  budget: null,
});

say("the column index");
const indexMs = await timed(() => readIndex(context, { test: { kind: "all" } }, MESSAGES, null));
const part = await readIndex(context, { test: { kind: "all" } }, MESSAGES, null);
const decodeMs = await medianOf(5, () => decodeColumns(part.bytes.buffer as ArrayBuffer));
const columns = decodeColumns(part.bytes.buffer as ArrayBuffer);
const rowsMs = await medianOf(
  3,
  () =>
    sql`select m.id, m.date, m.from_name, m.subject, m.preview, s.* from message m join message_state s on s.person = m.person and s.message = m.id limit ${MESSAGES}`,
);
lines.push({
  what: `index of ${columns.count} messages, ${(part.bytes.length / 1e6).toFixed(1)} MB`,
  ms: indexMs,
  floor: "reading the rows alone",
  floorMs: rowsMs,
  budget: null,
});

/** A frame of a screen that draws sixty a second. */
const FRAME_MS = 1000 / 60;
for (const source of ["unread & age>7d & !folder=Archive", "from~marsh", 'subject~"week 4" size>1k']) {
  const checked = readNarrow(source, { directory, now: new Date(), zone: "Europe/Zurich" });
  if (!checked.ok) throw new Error(source);
  const matches = matcher(checked.test);
  const cursor = new ColumnCursor(columns);
  const walk = () => {
    let n = 0;
    for (cursor.row = 0; cursor.row < columns.count; cursor.row++) if (matches(cursor)) n++;
    return n;
  };
  walk();
  lines.push({
    what: `narrowing by ${source}`,
    ms: await medianOf(7, walk),
    floor: "one frame",
    floorMs: FRAME_MS,
    budget: MESSAGES <= 100_000 ? 1 : null,
  });
}
lines.push({ what: "decoding the index", ms: decodeMs, floor: "one frame", floorMs: FRAME_MS, budget: null });

const [version] = await sql<{ v: string }[]>`select current_setting('server_version') as v`;
const machine = `${cpus().length} × ${cpus()[0]?.model ?? "?"}, ${Math.round(totalmem() / 2 ** 30)} GiB, Node ${process.versions.node}, PostgreSQL ${version?.v}`;
const table = lines.map((l) => {
  const ratio = l.ms / l.floorMs;
  const verdict = l.budget === null ? "" : ratio <= l.budget ? "within" : "over";
  return `| ${l.what.replaceAll("|", "\\|")} | ${l.ms.toFixed(1)} | ${l.floor} | ${l.floorMs.toFixed(1)} | ${ratio.toFixed(2)} | ${l.budget === null ? "" : l.budget.toFixed(2)} | ${verdict} |`;
});
const report = [
  `${MESSAGES.toLocaleString("en")} messages; ${machine}`,
  "",
  "| what | ms | floor | ms | ratio | budget | |",
  "| --- | ---: | --- | ---: | ---: | ---: | --- |",
  ...table,
].join("\n");
console.log(report);
if (out) writeFileSync(out, report);
await db.close();
