import { plural } from "@/core/text";
import { cpus } from "node:os";
import { openDatabase } from "../db";
import { wakeDue } from "./clock";
import { keep } from "./keeper";
import { work } from "./work";

/** The job process: does imports as they come, until it is told to end. */
const url = process.env.DATABASE_URL;
if (!url) throw new Error("DATABASE_URL is not set: start the app with npm run demo");

const stop = new AbortController();
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => stop.abort());
const db = openDatabase(url, 6);
const worker = new URL("./parse-worker.mjs", import.meta.url).pathname;
const log = (text: string) => console.error(`jobs: ${text}`);

/** How often the keeper looks. */
const KEEP_EVERY_MS = 3_600_000;
const look = () => void keep(db, new Date(), log).catch((error: Error) => log(`keeping stopped: ${error.message}`));
const keeping = setInterval(look, KEEP_EVERY_MS);
look();

/** How often the clock is looked at. */
const CLOCK_MS = 1000;
let isWaking = false;
async function wake(): Promise<void> {
  if (isWaking) return;
  isWaking = true;
  try {
    const count = await wakeDue(db, new Date());
    if (count > 0) log(`brought back ${plural(count, "deferred message")}`);
  } catch (error) {
    log(`bringing back stopped: ${error instanceof Error ? error.message : String(error)}`);
  }
  isWaking = false;
}
const waking = setInterval(() => void wake(), CLOCK_MS);

await work(db, worker, Math.max(1, Math.min(4, cpus().length)), stop.signal, log);
clearInterval(keeping);
clearInterval(waking);
await db.close();
