import { cpus } from "node:os";
import { keepLedger, letGo, whoIsAsking } from "../act";
import { openDatabase } from "../db";
import { work } from "./work";

/** The job process: does imports as they come, until it is told to end. */
const url = process.env.DATABASE_URL;
if (!url) throw new Error("DATABASE_URL is not set: start the app with npm run demo");

const stop = new AbortController();
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => stop.abort());
const db = openDatabase(url, 6);
const worker = new URL("./parse-worker.mjs", import.meta.url).pathname;
/** How often what has been kept long enough is let go: old runs, and mail in trash and junk. */
const TIDY_EVERY_MS = 3_600_000;
const tidy = async () => {
  const context = await whoIsAsking(db);
  const forgotten = await keepLedger(context, new Date());
  if (forgotten > 0) console.error(`jobs: forgot ${forgotten} old runs`);
  const gone = await letGo(context, new Date());
  if (gone > 0) console.error(`jobs: let ${gone} messages go that trash and junk had kept long enough`);
};
const tidying = setInterval(
  () => void tidy().catch((error: Error) => console.error(`jobs: tidying stopped: ${error.message}`)),
  TIDY_EVERY_MS,
);

await work(db, worker, Math.max(1, Math.min(4, cpus().length)), stop.signal, (text) => console.error(`jobs: ${text}`));
clearInterval(tidying);
await db.close();
