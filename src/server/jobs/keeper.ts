import { randomUUID } from "node:crypto";
import { writeEquals } from "@/core/narrow";
import { cut } from "@/core/text";
import { run, everybody, inTurn, keepingDays, readDirectory, readSettings, type By, type Who } from "../run";
import { endOld } from "../sign-in";
import { forgetEntries } from "../store";
import type { Database } from "../db";
import type { Log } from "../watch";

/** The keeper lets go what has been kept long enough, and clears away what was left behind. */

const DAY_MS = 86_400_000;
/** Messages let go in one run: each run is one transaction. */
const AT_ONCE = 5000;
/** An upload of which nothing came for so long was cut off. */
const CUT_OFF_AFTER = "1 hour";

const KEEPER: By = { actor: "keeper", cause: "trash and junk" };

/** Deletes for good what trash and junk have kept long enough. @returns how many messages */
export async function letGo(db: Database, who: Who, now: Date): Promise<number> {
  const { person } = who;
  const directory = await readDirectory(db.sql, person);
  let count = 0;
  for (const [folder, days] of await keepingDays(db.sql, person, directory)) {
    const before = new Date(now.getTime() - days * DAY_MS);
    for (;;) {
      const rows = await db.sql<{ message: number }[]>`
        select message from message_state where person = ${person} and folder = ${folder}
          and folder_since < ${before.toISOString()}::timestamptz order by message limit ${AT_ONCE}`;
      if (rows.length === 0) break;
      const name = directory.folders.find((f) => f.id === folder)?.path ?? "trash";
      const { entry } = await run(
        db,
        who,
        {
          id: randomUUID(),
          macro: {
            name: `${cut(name, 50)}: kept for ${days} days`,
            steps: [{ do: "delete for good" }],
            // Looked at inside the turn: what was taken out of there in the meantime stays.
            settings: { for: writeEquals("folder", name) },
          },
          target: { ids: rows.map((row) => row.message) },
        },
        KEEPER,
      );
      count += entry?.changed ?? 0;
      // What cannot be deleted now is tried again with the next look, not at once and for ever.
      if (!entry || entry.changed === 0) break;
    }
  }
  return count;
}

/** Forgets runs older than the person keeps them. @returns how many entries */
export async function keepLedger(db: Database, { person }: Who, now: Date): Promise<number> {
  const { ledgerDays } = await readSettings(db.sql, person);
  if (ledgerDays === null) return 0;
  const before = new Date(now.getTime() - ledgerDays * DAY_MS);
  return inTurn(db, person, (tx) => forgetEntries(tx, person, before));
}

/** Clears uploads away that were cut off. @returns how many pieces of them */
export async function clearAway({ sql }: Database): Promise<number> {
  const pieces = await sql`
    with cut as (delete from job where state = 'receiving' and touched_at < now() - ${CUT_OFF_AFTER}::interval returning id)
    delete from job_chunk using cut where job = cut.id`;
  return pieces.count;
}

/** One look of the keeper at everybody's mail. */
export async function keep(db: Database, now: Date, log: Log): Promise<void> {
  for (const who of await everybody(db)) {
    const forgotten = await keepLedger(db, who, now);
    if (forgotten > 0) log.info("forgot old runs", { runs: forgotten });
    const gone = await letGo(db, who, now);
    if (gone > 0) log.info("let go what trash and junk had kept long enough", { messages: gone });
  }
  await endOld(db);
  const pieces = await clearAway(db);
  if (pieces > 0) log.info("cleared away uploads that were cut off", { pieces });
}
