import { randomUUID } from "node:crypto";
import { messageId, runId } from "@/core/id";
import { apply, everybody, inTurn, prepare, type By, type Who } from "../run";
import { messagesDue, peopleDue } from "../store";
import type { Database } from "../db";

/** The clock brings back what was deferred, when its time has come. */

/** Messages brought back in one run: each run is one transaction. */
const AT_ONCE = 5000;

const CLOCK: By = { actor: "clock", cause: "deferred" };
const BACK = { name: "Back from being deferred", steps: [{ do: "end deferral" as const }] };

/** Which messages are due is read in the turn, so that each comes back once, however many processes look. */
const wakeSome = (db: Database, who: Who, now: Date): Promise<number> =>
  inTurn(db, who.person, async (tx, seq) => {
    const ids = await messagesDue(tx, who.person, now, AT_ONCE);
    if (ids.length === 0) return 0;
    const prepared = await prepare(tx, who, { macro: BACK, target: { ids: ids.map(messageId) } }, null);
    const entry = await apply(tx, who.person, prepared, { seq, id: runId(randomUUID()), ...CLOCK });
    return entry.changed;
  });

/** Brings back everything whose time has come. @returns how many messages */
export async function wakeDue(db: Database, now: Date): Promise<number> {
  const due = new Set<number>(await peopleDue(db.sql, now));
  if (due.size === 0) return 0;
  let count = 0;
  for (const who of (await everybody(db)).filter(({ person }) => due.has(person)))
    for (let some = 1; some > 0;) count += some = await wakeSome(db, who, now);
  return count;
}
