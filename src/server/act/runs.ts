import {
  changeOfMessages,
  compose,
  countCells,
  reconcile,
  type CellEdit,
  type Change,
  type MessageState,
} from "@/core/change";
import type { EntryShape, RunAnswer, RunRequest } from "@/core/api";
import { messageId, runId, taskId, type MessageId } from "@/core/id";
import type { Plan, PlannedThing } from "@/core/macro";
import type { Transaction } from "../db";
import { appendEntry, findEntry, readThings, takeTurn, writeChange, type LedgerEntry } from "../store";
import type { Context } from "./context";
import { prepare, readPlanning, targetIds } from "./planning";

/** How many skips an answer lists; the count is always exact. */
export const SHOWN_SKIPS = 1000;

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

const ofKind = <K extends PlannedThing["kind"]>({ things }: Plan, kind: K) =>
  things.filter((thing): thing is Extract<PlannedThing, { kind: K }> => thing.kind === kind);

async function numbers(tx: Transaction, table: "message" | "task", count: number): Promise<number[]> {
  if (count === 0) return [];
  const rows = await tx<{ id: number }[]>`
    select nextval(pg_get_serial_sequence(${table}, 'id')) as id from generate_series(1, ${count})`;
  return rows.map((row) => row.id);
}

/** People by address, each once, with the first message that named them. */
const onceEach = <T extends { readonly address: string }>(things: readonly T[]): T[] => [
  ...new Map([...things].reverse().map((thing) => [thing.address, thing])).values(),
];

/** The plan's change, with all it makes under ids of their own; people who are known already are left out. */
async function withThings(tx: Transaction, context: Context, plan: Plan): Promise<Change> {
  if (plan.things.length === 0) return plan.change;
  const copies = ofKind(plan, "copy");
  const tasks = ofKind(plan, "task");
  const messages = await numbers(tx, "message", copies.length);
  const taskIds = await numbers(tx, "task", tasks.length);
  const edits = new Map<MessageId, CellEdit[]>();
  const add = (message: MessageId, edit: CellEdit) => edits.set(message, [...(edits.get(message) ?? []), edit]);
  copies.forEach(({ source, state }, i) =>
    add(messageId(messages[i]!), { kind: "exists", before: null, after: { source, state } }),
  );
  tasks.forEach(({ source, task }, i) =>
    add(source, { kind: "task", task: taskId(taskIds[i]!), before: null, after: task }),
  );
  for (const { source, address, name } of onceEach(ofKind(plan, "contact")))
    add(source, { kind: "contact", address, before: null, after: { name } });
  for (const { source, address } of onceEach(ofKind(plan, "blocked")))
    add(source, { kind: "blocked", address, before: false, after: true });
  const things = changeOfMessages(edits);
  const thing = await readThings(tx, context.person, things);
  // Who is a contact or blocked already stays so, and is not this run's to take back.
  const anyState = {} as MessageState;
  const isNew = (id: MessageId) => (messages.includes(id) ? null : anyState);
  return compose(plan.change, reconcile(things, isNew, thing).ready);
}

export const answerOf = (entry: LedgerEntry): RunAnswer => ({
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
 * @param also what else the run does, in its transaction
 */
export async function runMacro(
  context: Context,
  request: RunRequest,
  also: (tx: Transaction) => Promise<unknown> = async () => undefined,
): Promise<RunAnswer> {
  const { db, person } = context;
  const id = runId(request.id);
  const earlier = await findEntry(db.sql, person, id);
  if (earlier) return answerOf(earlier);
  const planning = await readPlanning(context, request);
  const { macro } = planning;
  return db.sql.begin(async (sql) => {
    const tx = sql as Transaction;
    const seq = await takeTurn(tx, person);
    // Somebody may have sent the same run while this one waited for its turn.
    const meanwhile = await findEntry(tx, person, id);
    if (meanwhile) return answerOf(meanwhile);
    const ids = await targetIds(tx, context, planning, request.target);
    const prepared = await prepare(tx, context, planning, request, ids);
    if (prepared.plan.asks.length > 0)
      return { entry: null, changed: 0, skipped: [], asks: [...prepared.plan.asks], waiting: [] };
    const wanted = await withThings(tx, context, prepared.plan);
    const { change, skipped } = await writeChange(tx, person, wanted, prepared.states);
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
    await also(tx);
    if (macro.id !== null && countCells(change) > 0)
      await tx`update macro set uses = uses + 1, used_at = now() where person = ${person} and id = ${macro.id}`;
    return answerOf({ ...entry, state: "done" });
  }) as Promise<RunAnswer>;
}
