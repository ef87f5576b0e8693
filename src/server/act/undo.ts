import { randomUUID } from "node:crypto";
import { reconcile, type Change, type Skip } from "@/core/change";
import type { UndoAnswer } from "@/core/api";
import { runId, type MessageId, type RunId } from "@/core/id";
import { planUndo, stateOf, stillStanding, takenBack } from "@/core/ledger";
import type { Transaction } from "../db";
import {
  appendEntry,
  findEntry,
  readRun,
  readStates,
  readThings,
  setStanding,
  takeTurn,
  writeChange,
  type LedgerEntry,
} from "../store";
import { notFound, Refusal, type Context } from "./context";
import { restoreRemoved } from "./removed";
import { entryShapeOf } from "./runs";

/** Every message the change touches or copies from. */
function involved(change: Change): MessageId[] {
  const ids = new Set<MessageId>(change.keys());
  for (const edits of change.values())
    for (const edit of edits)
      if (edit.kind === "exists") for (const end of [edit.before, edit.after]) if (end) ids.add(end.source);
  return [...ids];
}

const answerOf = (entry: LedgerEntry): UndoAnswer => ({
  entry: entryShapeOf(entry),
  restored: entry.changed,
  skipped: entry.skipped.map((skip) => ({
    message: skip.message,
    cell: "cell" in skip ? skip.cell : "",
    reason: skip.reason,
  })),
});

/**
 * Takes a run back, or does it again, as a new entry that names it. Cells that something else has changed
 * since are left alone and listed.
 * @param request an id of the caller's own, so that asking twice does it once
 */
export async function takeBack(
  context: Context,
  kind: "undo" | "redo",
  run: RunId,
  request?: string,
): Promise<UndoAnswer> {
  const { db, person } = context;
  const id = runId(request ?? randomUUID());
  return db.sql.begin(async (sql) => {
    const tx = sql as Transaction;
    const seq = await takeTurn(tx, person);
    const earlier = await findEntry(tx, person, id);
    if (earlier) return answerOf(earlier);
    const target = await findEntry(tx, person, run);
    if (!target || target.kind !== "run") throw notFound("run", run);
    if (kind === "undo" && target.state === "undone")
      throw new Refusal(409, "Already undone", "This run has been taken back already.");
    if (kind === "redo" && target.state === "done")
      throw new Refusal(409, "Still done", "This run was not taken back, so there is nothing to do again.");
    const { written, standing } = await readRun(tx, person, run);
    const involvedIn = kind === "undo" ? standing : takenBack(written, standing);
    const states = await readStates(tx, person, involved(involvedIn));
    const read = (message: MessageId) => states.get(message) ?? null;
    const thing = await readThings(tx, person, involvedIn);
    const { ready, skipped } = kind === "undo" ? planUndo(standing, read, thing) : reconcile(involvedIn, read, thing);
    const done = await writeChange(tx, person, ready, states);
    // What holds the old value already needs no mention.
    const left: Skip[] = [...skipped, ...done.skipped].filter((skip) => skip.reason !== "already-so");
    const now = stillStanding(standing, done.change);
    await setStanding(tx, person, run, now, stateOf(written, now));
    const entry: Omit<LedgerEntry, "state"> = {
      seq,
      id,
      kind,
      of: run,
      at: new Date(),
      macro: target.macro,
      name: target.name,
      steps: target.steps,
      messages: involvedIn.size,
      changed: done.change.size,
      skipped: left,
    };
    await appendEntry(tx, person, entry, done.change);
    await restoreRemoved(tx, context, kind, run, done.change);
    return answerOf({ ...entry, state: "done" });
  }) as Promise<UndoAnswer>;
}
