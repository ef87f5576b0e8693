import { randomUUID } from "node:crypto";
import { changeOf, type Leaving } from "@/core/change";
import { runId, type PersonId } from "@/core/id";
import type { Database } from "../db";
import { askToLeave, type LeaveOutcome } from "../gateway";
import { inTurn } from "../run";
import { appendEntry, tell, writeChange } from "../store";
import { underLock } from "./lock";

/** Asks what is to be left, once its time has come. Asked twice, a list is left as much as asked once. */

const FIRST_PAUSE_MS = 60_000;
const MOST_ATTEMPTS = 8;

interface Due extends Leaving {
  readonly person: PersonId;
  readonly source: string;
  readonly attempt: number;
}

async function note(db: Database, due: Due, outcome: LeaveOutcome, now: Date): Promise<void> {
  const { person, source, attempt, how, target, account } = due;
  const said = outcome.is === "left" ? null : outcome.said;
  await inTurn(db, person, async (tx, seq) => {
    if (outcome.is === "later" && attempt + 1 < MOST_ATTEMPTS) {
      const next = new Date(now.getTime() + FIRST_PAUSE_MS * 2 ** attempt);
      await tx`
        update leaving set attempt = attempt + 1, said = ${said}, at = ${next.toISOString()}::timestamptz
        where person = ${person} and source = ${source} and state = 'waiting'`;
      return;
    }
    const before: Leaving = { how, target, account, state: "waiting" };
    const after: Leaving = { ...before, state: outcome.is === "left" ? "left" : "refused" };
    const wanted = changeOf([], [{ kind: "leaving", key: source, about: null, before, after }]);
    // Taken back while it was asked, nothing is written: it has been asked all the same, and more may come.
    const { change, skipped } = await writeChange(tx, person, wanted);
    if (change.things.size === 0) return;
    await tx`update leaving set said = ${said} where person = ${person} and source = ${source}`;
    await appendEntry(
      tx,
      person,
      {
        seq,
        id: runId(randomUUID()),
        kind: "run",
        actor: "outbox",
        cause: source,
        of: null,
        macro: null,
        name: outcome.is === "left" ? "Left" : "Could not leave",
        steps: [],
        about: source,
        messages: 0,
        skipped,
      },
      change,
    );
    await tell(tx, person, "settings");
  });
}

/** Of the lock on asking: one process at a time does. */
const LEAVE_LOCK = 72_245;

/** @returns how many were asked */
export const leaveDue = async (db: Database, now: Date): Promise<number> =>
  (await underLock(db, LEAVE_LOCK, 0, () => askDue(db, now))) ?? 0;

async function askDue(db: Database, now: Date): Promise<number> {
  const due = await db.sql<Due[]>`
    select person, source, how, target, account, state, attempt from leaving
    where state = 'waiting' and at <= ${now.toISOString()}::timestamptz order by at limit 50`;
  for (const one of due) await note(db, one, await askToLeave(db.sql, one.person, one.account, one.target), now);
  return due.length;
}
