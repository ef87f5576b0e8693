import { storable } from "@/core/text";
import type { Database } from "../db";
import { noteWork, type Log } from "../watch";
import { runImport } from "./import";
import { isAway, underLock } from "./lock";
import { ParsePool } from "../parse";
import { findOpenJob, openJobs, JOB_CHANNEL, type JobRow } from "./rows";
import { indexWords } from "./words";

/** First half of the two-part key of the locks on jobs; the second is the job. */
const JOB_LOCK = 72_240;
/** How often to look for work nobody told of: jobs of a process that died. */
const LOOK_EVERY_MS = 3000;
const RETRY_AFTER_MS = 1000;

/**
 * Does one job if no other process is at it.
 * @returns whether the job was done here
 */
export async function doJob(db: Database, job: JobRow, pool: ParsePool): Promise<boolean> {
  const done = await underLock(db, JOB_LOCK, job.id, async () => {
    const now = await findOpenJob(db.sql, job.id);
    if (now) await runImport(db, now, pool);
    return now !== null;
  });
  return done === true;
}

const pause = (ms: number, signal: AbortSignal) =>
  new Promise<void>((resolve) => {
    const timer = setTimeout(resolve, ms);
    signal.addEventListener("abort", () => (clearTimeout(timer), resolve()), { once: true });
  });

/** A job that fails this often, with the database there, is given up with its reason. */
const MOST_FAILURES = 3;

/** Does jobs as they come, until the signal. A database that went away is waited for. */
export async function work(
  db: Database,
  workerFile: string,
  threads: number,
  signal: AbortSignal,
  log: Log,
): Promise<void> {
  let wake = new AbortController();
  const look = () => wake.abort();
  signal.addEventListener("abort", look);
  void db.sql.listen(JOB_CHANNEL, look, look).catch((error: unknown) => log.fault("cannot listen for jobs", error));
  const failures = new Map<number, number>();

  const attempt = async (job: JobRow): Promise<void> => {
    const pool = new ParsePool(workerFile, threads);
    try {
      await noteWork("imports", () => doJob(db, job, pool));
    } catch (error) {
      const reason = error instanceof Error ? error.message : String(error);
      log.fault("an import stopped", error, {}, { job: job.id });
      if (isAway(error)) throw error;
      const times = (failures.get(job.id) ?? 0) + 1;
      failures.set(job.id, times);
      if (times >= MOST_FAILURES)
        await db.sql`update job set state = 'failed', error = ${storable(reason.slice(0, 500))}, finished_at = now() where id = ${job.id}`;
      else throw error;
    } finally {
      await pool.close();
    }
  };

  // Imports come first; the words of what they brought are indexed behind them.
  const index = async (): Promise<void> => {
    const stop = () => wake.signal.aborted || signal.aborted;
    try {
      const count = await noteWork("words", () => indexWords(db, () => new ParsePool(workerFile, threads), stop));
      if (count > 0) log.info("indexed words", { messages: count });
    } catch (error) {
      log.fault("indexing words stopped", error);
      throw error;
    }
  };

  while (!signal.aborted) {
    wake = new AbortController();
    try {
      for (const job of await openJobs(db.sql)) if (!signal.aborted) await attempt(job);
      await index();
      await pause(LOOK_EVERY_MS, wake.signal);
    } catch {
      await pause(RETRY_AFTER_MS, signal);
    }
  }
}
