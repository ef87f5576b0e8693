import { createReadStream, statSync } from "node:fs";
import { cpus } from "node:os";
import { basename } from "node:path";
import { parseArgs } from "node:util";
import { personId } from "@/core/id";
import { openDatabase } from "../db";
import { doJob, findJob, ParsePool } from "../jobs";
import { keepPace } from "../pace";
import { personOf } from "./context";
import { importFile } from "./imports";

/**
 * `import FILE… --folder NAME [--for ADDRESS]`: takes files in, or waits while the app's own job process does. They are
 * the first person's, or of whoever signs in with that address.
 */
const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { folder: { type: "string", default: "Inbox" }, quiet: { type: "boolean" }, for: { type: "string" } },
});
const fail = (text: string): never => {
  console.error(text);
  process.exit(1);
};
if (positionals.length === 0) fail("Name a file: npm run import -- FILE --folder NAME");
const url = process.env.DATABASE_URL ?? fail("DATABASE_URL is not set.");

const db = openDatabase(url, 6);
const context =
  (await personOf(db, values.for ?? null)) ?? fail("There is nobody to import for. Begin first: start the app.");
const pool = new ParsePool(
  new URL("./parse-worker.mjs", import.meta.url).pathname,
  Math.max(1, Math.min(4, cpus().length)),
);
const show = (text: string) => !values.quiet && process.stderr.write(text);

for (const file of positionals) {
  const stat = statSync(file, { throwIfNoEntry: false });
  if (!stat?.isFile()) fail(`There is no file ${file}.`);
  const id = await importFile(
    context,
    basename(file),
    values.folder,
    createReadStream(file, { highWaterMark: 1024 * 1024 }),
  );
  for (let over = false; !over;) {
    const job = (await findJob(db.sql, personId(context.person), id))!;
    const progress = setInterval(async () => {
      const now = await findJob(db.sql, personId(context.person), id).catch(() => null);
      if (now?.total)
        show(`\r${basename(file)}: ${Math.floor((100 * now.position) / now.total)} %, ${now.added} messages `);
    }, 500);
    await doJob(db, job, pool).finally(() => clearInterval(progress));
    const now = (await findJob(db.sql, personId(context.person), id))!;
    over = now.state === "done" || now.state === "failed";
    if (!over) await new Promise((resolve) => setTimeout(resolve, 300));
    else {
      console.error(
        `\r${basename(file)} → ${values.folder}: ${now.added} added, ${now.doubles} here already, ${now.problems.length} could not come in`,
      );
      for (const { offset, reason } of now.problems.slice(0, 20)) console.error(`  at byte ${offset}: ${reason}`);
      if (now.state === "failed") fail(`The import was given up: ${now.error}`);
    }
  }
}
await pool.close();
// So that whoever starts the app next finds figures there.
await keepPace(db, context.person, context.zone);
await db.close();
