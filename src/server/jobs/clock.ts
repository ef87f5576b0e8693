import { randomUUID } from "node:crypto";
import { messageId, runId } from "@/core/id";
import type { Step } from "@/core/macro";
import { apply, everybody, inTurn, letInDue, noteUnanswered, prepare, readDirectory, type By, type Who } from "../run";
import { endTimers, messagesDue, peopleDue, type TimerKind } from "../store";
import type { Database } from "../db";

/** What the clock does to messages when their time has come. */

/** Messages brought back in one run: each run is one transaction. */
const AT_ONCE = 5000;

interface Deed {
  readonly kind: TimerKind;
  readonly cause: By["cause"];
  readonly macro: { readonly name: string; readonly steps: readonly [Step] };
}

const BACK: Deed = {
  kind: "wake",
  cause: "deferred",
  macro: { name: "Back from being deferred", steps: [{ do: "end deferral" }] },
};
const HAND: Deed = { kind: "hand", cause: "at hand", macro: { name: "At hand no more", steps: [{ do: "unpin" }] } };

/** Which messages are due is read in the turn, so that it is done to each once, however many processes look. */
const doSome =
  ({ kind, cause, macro }: Deed) =>
  (db: Database, who: Who, now: Date): Promise<number> =>
    inTurn(db, who.person, async (tx, seq) => {
      const ids = await messagesDue(tx, kind, who.person, now, AT_ONCE);
      if (ids.length === 0) return 0;
      const prepared = await prepare(tx, who, { macro, target: { ids: ids.map(messageId) } }, null);
      const entry = await apply(tx, who, prepared, { seq, id: runId(randomUUID()), actor: "clock", cause });
      return entry.changed;
    });

const remindSome = (db: Database, { person }: Who, now: Date): Promise<number> =>
  inTurn(db, person, async (tx) => {
    const ids = await messagesDue(tx, "await", person, now, AT_ONCE);
    if (ids.length === 0) return 0;
    await endTimers(tx, "await", person, ids);
    await noteUnanswered(tx, person, await readDirectory(tx, person), ids.map(messageId));
    return ids.length;
  });

async function whenDue(
  db: Database,
  kind: TimerKind,
  now: Date,
  some: (db: Database, who: Who, now: Date) => Promise<number>,
): Promise<number> {
  const due = new Set<number>(await peopleDue(db.sql, kind, now));
  if (due.size === 0) return 0;
  let count = 0;
  for (const who of (await everybody(db)).filter(({ person }) => due.has(person)))
    for (let more = 1; more > 0;) count += more = await some(db, who, now);
  return count;
}

const letSomeIn = (db: Database, who: Who, now: Date): Promise<number> =>
  inTurn(db, who.person, (tx) => letInDue(tx, who, now));

/** Brings back everything whose time has come: mail whose hours have begun as new, the rest as back. @returns how many messages */
export async function wakeDue(db: Database, now: Date): Promise<number> {
  const letIn = await whenDue(db, "wake", now, letSomeIn);
  return letIn + (await whenDue(db, "wake", now, doSome(BACK)));
}

/** Takes the pins off whose end has come. @returns how many */
export const unpinDue = (db: Database, now: Date): Promise<number> => whenDue(db, "hand", now, doSome(HAND));

/** Brings back everything that has waited for an answer long enough. @returns how many messages */
export const remindDue = (db: Database, now: Date): Promise<number> => whenDue(db, "await", now, remindSome);
