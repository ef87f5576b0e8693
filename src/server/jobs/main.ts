import { cpus } from "node:os";
import { keepLedger, whoIsAsking } from "../act";
import { openDatabase } from "../db";
import { work } from "./work";

/** The job process: does imports as they come, until it is told to end. */
const url = process.env.DATABASE_URL;
if (!url) throw new Error("DATABASE_URL is not set: start the app with npm run demo");

const stop = new AbortController();
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => stop.abort());
const db = openDatabase(url, 6);
const worker = new URL("./parse-worker.mjs", import.meta.url).pathname;
/** How often runs older than the person keeps them are forgotten. */
const FORGET_EVERY_MS = 3_600_000;
const forget = async () => {
  const gone = await keepLedger(await whoIsAsking(db), new Date());
  if (gone > 0) console.error(`jobs: forgot ${gone} old runs`);
};
const forgetting = setInterval(
  () => void forget().catch((error: Error) => console.error(`jobs: old runs were not forgotten: ${error.message}`)),
  FORGET_EVERY_MS,
);

await work(db, worker, Math.max(1, Math.min(4, cpus().length)), stop.signal, (text) => console.error(`jobs: ${text}`));
clearInterval(forgetting);
await db.close();
