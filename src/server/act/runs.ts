import { and, eq, isNull } from "drizzle-orm";
import { applyEdits, changeOfMessages, compose, type MessageState } from "@/core/change";
import type { EntryShape, RunAnswer, RunRequest } from "@/core/api";
import { messageId, runId, type MessageId } from "@/core/id";
import { plan, stepsSchema, textOfProblem, type Plan, type Step } from "@/core/macro";
import { readNarrow } from "@/core/narrow";
import type { Directory } from "@/core/place";
import { macroTable, type Queryable, type Transaction } from "../db";
import { pageOfIds } from "../search";
import { appendEntry, findEntry, readStates, takeTurn, writeChange, type LedgerEntry } from "../store";
import { badNarrow, notFound, Refusal, type Context } from "./context";
import { readDirectory } from "./directory";

interface Macro {
  readonly id: number | null;
  readonly name: string;
  readonly steps: readonly Step[];
}

/** A run may have waited this long for the server to come back. */
const LONGEST_WAIT_MS = 30 * 86_400_000;
/** How many messages a dry run shows one by one. */
const SHOWN_DRY = 200;
/** How many skips an answer lists; the count is always exact. */
const SHOWN_SKIPS = 1000;

export const entryShapeOf = (entry: LedgerEntry): EntryShape => ({
  id: entry.id,
  seq: entry.seq,
  at: entry.at.toISOString(),
  kind: entry.kind as EntryShape["kind"],
  of: entry.of,
  macro: { id: entry.macro, name: entry.name, steps: [...entry.steps] },
  messages: entry.messages,
  changed: entry.changed,
  state: entry.state,
  skipped: entry.skipped.length,
});

async function readMacro({ db, person }: Context, macro: RunRequest["macro"]): Promise<Macro> {
  if (typeof macro !== "number") return { ...macro, id: macro.id ?? null };
  const [row] = await db.orm
    .select()
    .from(macroTable)
    .where(and(eq(macroTable.person, person), eq(macroTable.id, macro), isNull(macroTable.deletedAt)));
  if (!row) throw notFound("macro", macro);
  return { id: row.id, name: row.name, steps: stepsSchema.parse(row.steps) };
}

async function targetIds(
  sql: Queryable,
  context: Context,
  directory: Directory,
  target: RunRequest["target"],
  now: Date,
): Promise<MessageId[]> {
  if ("ids" in target) return [...new Set(target.ids)].map(messageId);
  const checked = readNarrow(target.narrow, { directory, now, zone: context.zone });
  if (!checked.ok) throw badNarrow(checked.issues);
  const places = await pageOfIds(sql, context.person, checked.test, target.order ?? "oldest", null);
  return places.map((place) => place.id);
}

interface Prepared {
  readonly macro: Macro;
  readonly ids: readonly MessageId[];
  readonly states: ReadonlyMap<MessageId, MessageState>;
  readonly plan: Plan;
  /** Messages that were named but do not exist. */
  readonly gone: readonly { message: number; step: number; reason: string }[];
}

async function prepare(
  sql: Queryable,
  context: Context,
  directory: Directory,
  macro: Macro,
  request: RunRequest,
  now: Date,
  ids: readonly MessageId[],
): Promise<Prepared> {
  const states = await readStates(sql, context.person, ids);
  const messages = ids.flatMap((id) => {
    const state = states.get(id);
    return state ? [{ id, state }] : [];
  });
  const planned = plan(macro.steps, messages, request.answers ?? {}, { directory, now, zone: context.zone });
  if (!planned.ok) throw new Refusal(422, "The macro cannot run", planned.problems.map(textOfProblem).join(" "));
  const gone = ids.filter((id) => !states.has(id)).map((id) => ({ message: id, step: 1, reason: "gone" }));
  return { macro, ids, states, plan: planned.plan, gone };
}

/** The plan's change, with the copies it makes under ids of their own. */
async function withCopies(tx: Transaction, { change, copies }: Plan) {
  if (copies.length === 0) return change;
  const rows = await tx<{ id: number }[]>`
    select nextval(pg_get_serial_sequence('message', 'id')) as id from generate_series(1, ${copies.length})`;
  const made = copies.map(
    (copy, i) => [messageId(rows[i]!.id), [{ kind: "exists" as const, before: null, after: copy }]] as const,
  );
  return compose(change, changeOfMessages(made));
}

const decidedAt = (request: RunRequest): Date => {
  const now = new Date();
  const at = request.at ? new Date(request.at) : now;
  return at > now || now.getTime() - at.getTime() > LONGEST_WAIT_MS ? now : at;
};

const answerOf = (entry: LedgerEntry): RunAnswer => ({
  entry: entryShapeOf(entry),
  changed: entry.changed,
  skipped: entry.skipped
    .slice(0, SHOWN_SKIPS)
    .map((skip) => ({ message: skip.message, step: "step" in skip ? skip.step : 1, reason: skip.reason })),
  asks: [],
  waiting: [],
});

/**
 * Runs a macro as one transaction: planned on what is stored now, written where it still holds, one ledger
 * row. The same id again answers with what the first did.
 */
export async function runMacro(context: Context, request: RunRequest): Promise<RunAnswer> {
  const { db, person } = context;
  const id = runId(request.id);
  const earlier = await findEntry(db.sql, person, id);
  if (earlier) return answerOf(earlier);
  const macro = await readMacro(context, request.macro);
  const directory = await readDirectory(context);
  const now = decidedAt(request);
  return db.sql.begin(async (sql) => {
    const tx = sql as Transaction;
    const seq = await takeTurn(tx, person);
    // Somebody may have sent the same run while this one waited for its turn.
    const meanwhile = await findEntry(tx, person, id);
    if (meanwhile) return answerOf(meanwhile);
    const ids = await targetIds(tx, context, directory, request.target, now);
    const prepared = await prepare(tx, context, directory, macro, request, now, ids);
    if (prepared.plan.asks.length > 0)
      return { entry: null, changed: 0, skipped: [], asks: [...prepared.plan.asks], waiting: [] };
    const { change, skipped } = await writeChange(tx, person, await withCopies(tx, prepared.plan), prepared.states);
    const entry: Omit<LedgerEntry, "state"> = {
      seq,
      id,
      kind: "run",
      of: null,
      at: new Date(),
      macro: macro.id,
      name: macro.name,
      steps: macro.steps,
      messages: prepared.ids.length,
      changed: change.size,
      skipped: [...prepared.gone, ...prepared.plan.skipped, ...skipped],
    };
    await appendEntry(tx, person, entry, change);
    return answerOf({ ...entry, state: "done" });
  }) as Promise<RunAnswer>;
}

/** What the run would do, without doing it. */
export async function dryRun(context: Context, request: RunRequest) {
  const macro = await readMacro(context, request.macro);
  const directory = await readDirectory(context);
  const now = decidedAt(request);
  const { sql } = context.db;
  const ids = await targetIds(sql, context, directory, request.target, now);
  const prepared = await prepare(sql, context, directory, macro, request, now, ids);
  const { change, copies, skipped, asks } = prepared.plan;
  const totals: Record<string, number> = { messages: prepared.ids.length, changed: change.size, copies: copies.length };
  for (const edits of change.values()) for (const { kind } of edits) totals[kind] = (totals[kind] ?? 0) + 1;
  const names = namesIn(directory);
  const messages = [...change].slice(0, SHOWN_DRY).map(([id, edits]) => {
    const before = prepared.states.get(id)!;
    const after = applyEdits(before, edits);
    const cells = [...new Set(edits.map((edit) => (edit.kind === "label" ? "labels" : edit.kind)))];
    const pick = (state: MessageState) => Object.fromEntries(cells.map((cell) => [cell, names(state, cell)]));
    return { id, before: pick(before), after: pick(after) };
  });
  return {
    messages,
    totals,
    skipped: [...prepared.gone, ...skipped].slice(0, SHOWN_SKIPS),
    irreversible: [],
    asks: [...asks],
  };
}

/** Values as people write them: paths, names and letters instead of ids. */
function namesIn(directory: Directory) {
  return (state: MessageState, cell: string): unknown => {
    if (cell === "folder") return directory.folders.find((f) => f.id === state.folder)?.path ?? null;
    if (cell === "marker") return directory.markers.find((m) => m.id === state.marker)?.letter ?? null;
    if (cell === "labels") return directory.labels.filter((l) => state.labels.includes(l.id)).map((l) => l.name);
    return state[cell as keyof MessageState];
  };
}
