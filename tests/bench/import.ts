import { importFile, type Context } from "@/server/act";
import { mboxEntry } from "@/core/mail";
import { doJob, type ParsePool } from "@/server/jobs";
import { generate, type Generated } from "../../demo/generate";
import { median, medianOf, say, timed, type Figure } from "./figures";

/** The rate of the import is held against the parser's own: at least 0.8 of it. */
const BUDGET = 1 / 0.8;
const TRIES = 3;

/** A message with an attachment of so many bytes, as much of real mail has; no two alike. */
function withAttachment(message: Generated, bytes: number, number: number): Generated {
  const body = Buffer.alloc(bytes, `${number} `).toString("base64").replace(/.{76}/g, "$&\r\n");
  const head = Buffer.from(message.raw)
    .toString("latin1")
    .split(/\r?\n\r?\n/)[0]!;
  const kept = head
    .replace(/\r?\n[ \t]+/g, " ")
    .split(/\r?\n/)
    .filter((line) => !/^(content-|mime-)/i.test(line));
  const raw = [
    ...kept,
    "MIME-Version: 1.0",
    'Content-Type: multipart/mixed; boundary="cut"',
    "",
    "--cut\r\nContent-Type: text/plain; charset=utf-8\r\n\r\nPlease find the list attached.",
    `--cut\r\nContent-Type: application/octet-stream; name="list.bin"\r\nContent-Transfer-Encoding: base64\r\n\r\n${body}`,
    "--cut--",
    "",
  ].join("\r\n");
  return { ...message, raw: Buffer.from(raw, "latin1") };
}

async function against(context: Context, pool: ParsePool, what: string, world: readonly Generated[]) {
  const parseAll = async () => {
    const raws = world.map((m) => new Uint8Array(m.raw));
    const batches: Promise<unknown>[] = [];
    for (let at = 0; at < raws.length; at += 100) batches.push(pool.parse(raws.slice(at, at + 100), new Date()));
    await Promise.all(batches);
  };
  await parseAll();
  const floorMs = await medianOf(TRIES, parseAll);
  const file = Buffer.concat(world.map((m) => mboxEntry(m.raw, m.sender, m.date)));
  async function* pieces() {
    for (let at = 0; at < file.length; at += 1 << 20) yield file.subarray(at, at + (1 << 20));
  }
  const id = await importFile(context, "bench.mbox", "Inbox", pieces());
  const [job] = await context.db.sql`select * from job where id = ${id}`;
  const ms = await timed(() => doJob(context.db, job as never, pool));
  return { what, ms, floor: "parsing them alone", floorMs, budget: BUDGET } satisfies Figure;
}

/** Taking mail in, against parsing it on as many threads and doing nothing with it. */
export async function importFigures(context: Context, pool: ParsePool): Promise<Figure[]> {
  say("import against the parser alone");
  const small = [...generate({ messages: 4000, seed: 5, now: new Date() })];
  const large = [...generate({ messages: 2000, seed: 6, now: new Date() })].map((m, i) => withAttachment(m, 9000, i));
  const size = (world: readonly Generated[]) => `${(median(world.map((m) => m.raw.length)) / 1000).toFixed(1)} kB`;
  return [
    await against(context, pool, `import of ${small.length} messages of ${size(small)}`, small),
    await against(context, pool, `import of ${large.length} messages of ${size(large)}`, large),
  ];
}
