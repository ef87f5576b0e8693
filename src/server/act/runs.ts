import type { EntryShape, RunAnswer, RunRequest, UndoAnswer } from "@/core/api";
import type { PersonId, RunId } from "@/core/id";
import type { Queryable } from "../db";
import { readSkipped, type LeftAlone, type LedgerEntry } from "../store";
import { abilitiesOf } from "@/core/macro";
import { BY_PERSON, Refusal, run, takeBack as takeBackIn, type BackKind, type Prepared } from "../run";
import type { Context } from "./context";

/** How many messages an answer lists one by one; the count is always exact. */
export const SHOWN_SKIPS = 1000;

export const entryShapeOf = (entry: LedgerEntry): EntryShape => ({
  id: entry.id,
  seq: entry.seq,
  at: entry.at.toISOString(),
  kind: entry.kind as EntryShape["kind"],
  actor: entry.actor,
  cause: entry.cause,
  of: entry.of,
  macro: { id: entry.macro, name: entry.name, steps: [...entry.steps] },
  about: entry.about,
  messages: entry.messages,
  changed: entry.changed,
  restorable: entry.restorable,
  state: entry.state,
  skipped: entry.skipped,
});

/**
 * What was left alone, as it is told: things that hang on no message are not told of one by one.
 * @param noStep the number for what no step alone is the reason of
 */
export const skippedShape = (skipped: readonly LeftAlone[], noStep: 0 | 1) =>
  skipped.flatMap((skip) =>
    skip.message === null
      ? []
      : [
          {
            message: skip.message,
            step: "step" in skip ? skip.step : noStep,
            cell: "cell" in skip ? skip.cell : "",
            reason: skip.reason,
          },
        ],
  );

const waitingOf = (sql: Queryable, person: PersonId, run: RunId) =>
  sql<{ message: number; draft: number }[]>`
    select message, draft from pause where person = ${person} and run = ${run} order by draft`;

/** @param mayWait whether letters of the run's may be waiting for the person to finish them */
export async function runAnswerOf({ db, person }: Context, entry: LedgerEntry, mayWait = true): Promise<RunAnswer> {
  const skipped = entry.skipped > 0 ? await readSkipped(db.sql, person, entry.id) : [];
  return {
    entry: entryShapeOf(entry),
    changed: entry.changed,
    skipped: skippedShape(skipped, 1)
      .slice(0, SHOWN_SKIPS)
      .map(({ message, step, reason }) => ({ message, step, reason })),
    asks: [],
    waiting: mayWait ? await waitingOf(db.sql, person, entry.id) : [],
  };
}

/** What a program may have run: without the scope for it, nothing that goes out to others. */
const allowedTo =
  ({ scopes }: Context) =>
  ({ macro, context }: Prepared): void => {
    if (!scopes || scopes.includes("send")) return;
    const { sends, passing } = abilitiesOf(macro, context.macros);
    if (sends || passing.length > 0)
      throw new Refusal(403, "Not with this token", "This macro writes to others: that takes a token that may send.");
  };

/** Runs a macro (see server/run); the same id again answers with what the first did. */
export async function runMacro(context: Context, request: RunRequest): Promise<RunAnswer> {
  const ran = await run(context.db, context, request, BY_PERSON, allowedTo(context));
  if (ran.entry) return runAnswerOf(context, ran.entry, ran.mayWait);
  return { entry: null, changed: 0, skipped: [], asks: [...ran.asks], waiting: [] };
}

/** Takes a run back, or does it again (see server/run). @param request makes a repeat harmless */
export async function takeBack(context: Context, kind: BackKind, of: RunId, request?: string): Promise<UndoAnswer> {
  const { db, person } = context;
  const { entry } = await takeBackIn(db, person, kind, of, request);
  const skipped = entry.skipped > 0 ? await readSkipped(db.sql, person, entry.id) : [];
  return {
    entry: entryShapeOf(entry),
    restored: entry.changed,
    skipped: skippedShape(skipped, 1).map(({ message, cell, reason }) => ({ message, cell, reason })),
  };
}
