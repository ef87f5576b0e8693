import { writeFileSync } from "node:fs";
import { cpus } from "node:os";
import type { Context } from "@/server/act";
import { ensureSimulated } from "@/server/gateway";
import { ParsePool } from "@/server/jobs";
import { inTurn } from "@/server/run";
import { accountFigures } from "./accounts";
import { browserFigures } from "./browser";
import { columnFigures } from "./columns";
import { say, tableOf, type Figure } from "./figures";
import { filingFigures } from "./filing";
import { importFigures } from "./import";
import { emptyMailbox, machineOf } from "./mailbox";
import { paceFigures } from "./pace";
import { ruleFigures } from "./rules";
import { runFigures } from "./runs";
import { searchFigures } from "./search";
import { wallFigures } from "./walls";

/**
 * Speed as ratios to floors measured in the same run: absolute times drift between machines. Each figure is
 * the median of several tries.
 */
const [url, migrations, worker, count = "100000", out] = process.argv.slice(2);
if (!url || !migrations || !worker) throw new Error("usage: bench URL MIGRATIONS WORKER [MESSAGES] [OUT.md]");
const MESSAGES = Number(count);

const context = await emptyMailbox(url, migrations, 4);
const { db, person } = context;
const { sql } = db;
await inTurn(db, person, (tx) => ensureSimulated(tx, person, 0));

const pool = new ParsePool(worker, Math.max(1, Math.min(4, cpus().length)));
const figures = await importFigures(context, pool);
figures.push(...(await ruleFigures(context, pool)));
await pool.close();

say(`filling up to ${MESSAGES.toLocaleString("en")} messages`);
const [row] = await sql<{ there: number }[]>`select count(*) as there from message`;
const there = row!.there;
await sql`
  with n as (select n, (n % ${there}) as k from generate_series(1, ${MESSAGES - there}) n),
  base as (select *, row_number() over (order by id) - 1 as k from message where person = ${person}),
  m as (insert into message (person, content, thread, date, size, traits, from_name, from_address, recipients, cc, subject, preview,
      list, message_id, attachments, flaws, from_key, to_key, subject_key, list_key)
    select b.person, b.content, b.thread, b.date - n.n * interval '3 minutes', b.size, b.traits, b.from_name, b.from_address,
      b.recipients, b.cc, b.subject, b.preview, b.list, null, b.attachments, b.flaws, b.from_key, b.to_key,
      b.subject_key, b.list_key from n join base b using (k) returning id, from_address)
  insert into message_state (person, message, folder, bits, sender)
    select ${person}, m.id, case when m.id % 6 = 0 or m.id < 12000 then 1 else 2 end, (m.id % 3 = 0)::int, coalesce(x.id, 0)
    from m left join sender x on x.person = ${person} and x.address = lower(m.from_address) order by m.id`;
await sql`vacuum analyze message_state`;
await sql`vacuum analyze message`;
await sql`checkpoint`;

figures.push(...(await runFigures(context)));
figures.push(...(await columnFigures(context, MESSAGES)));
figures.push(...(await searchFigures(context)));
figures.push(...(await wallFigures(context, url)));
/** The day from which on there are some ten thousand messages in a state. */
async function dayOf(state: string): Promise<string> {
  const [tenth] = await sql<{ day: string }[]>`
    select to_char(m.date, 'YYYY-MM-DD') as day from message m join message_state s on s.person = m.person and s.message = m.id
    where m.person = ${person} and ${sql.unsafe(state)} order by m.date desc offset 10000 limit 1`;
  return tenth!.day;
}
const browser = await browserFigures(url, MESSAGES, [
  { what: "marking", narrow: `date>=${await dayOf("true")}` },
  // Those that are read leave the list when they are made unread.
  { what: "removing", narrow: `read date>=${await dayOf("s.bits & 1 = 1")}` },
]);
figures.push(...browser.figures);
figures.push(...(await filingFigures(context)));

/** Measures in a database of its own, with nothing in it yet. */
async function apart(name: string, measure: (other: Context) => Promise<Figure[]>): Promise<void> {
  await sql.unsafe(`drop database if exists ${name}`);
  await sql.unsafe(`create database ${name}`);
  const other = new URL(url!);
  other.pathname = `/${name}`;
  const empty = await emptyMailbox(other.href, migrations!, 8);
  figures.push(...(await measure(empty)));
  await empty.db.close();
  await sql.unsafe(`drop database ${name}`);
}
await apart("bench_accounts", (other) => accountFigures(other, worker, cpus().length));
await apart("bench_pace", paceFigures);

const report = `${MESSAGES.toLocaleString("en")} messages; ${await machineOf(db)}\n\n${tableOf(figures)}\n\n${browser.notes.join("\n")}`;
console.log(report);
if (out) writeFileSync(out, report);
await db.close();
