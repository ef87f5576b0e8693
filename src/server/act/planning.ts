import { and, asc, eq, isNull } from "drizzle-orm";
import type { MessageState } from "@/core/change";
import type { RunRequest } from "@/core/api";
import { messageId, type MessageId } from "@/core/id";
import {
  needsOf,
  plan,
  settingsSchema,
  stepsSchema,
  textOfProblem,
  type NamedMacro,
  type Plan,
  type PlanContext,
  type Plannable,
  type Settings,
  type Step,
} from "@/core/macro";
import { readNarrow } from "@/core/narrow";
import { macroTable, type Queryable } from "../db";
import { pageOfIds } from "../search";
import { listOf, readStates } from "../store";
import { badNarrow, notFound, Refusal, type Context } from "./context";
import { readDirectory } from "./directory";
import { readFacts, readGuess } from "./facts";

export interface Macro extends NamedMacro {
  readonly id: number | null;
}

export interface Prepared {
  readonly macro: Macro;
  readonly ids: readonly MessageId[];
  readonly states: ReadonlyMap<MessageId, MessageState>;
  readonly plan: Plan;
  /** Messages that were named but do not exist. */
  readonly gone: readonly { message: number; step: number; reason: string }[];
}

/** What runs are planned with, read before the transaction: names, and the macros that macros may run. */
export interface Planning {
  readonly macro: Macro;
  readonly context: PlanContext;
}

/** A run may have waited this long for the server to come back. */
const LONGEST_WAIT_MS = 30 * 86_400_000;

/** When it was decided; times such as +3h count from it. */
export function decidedAt(request: RunRequest): Date {
  const now = new Date();
  const at = request.at ? new Date(request.at) : now;
  return at > now || now.getTime() - at.getTime() > LONGEST_WAIT_MS ? now : at;
}

async function readMacros({ db, person }: Context): Promise<(NamedMacro & { id: number })[]> {
  const rows = await db.orm
    .select()
    .from(macroTable)
    .where(and(eq(macroTable.person, person), isNull(macroTable.deletedAt)))
    .orderBy(asc(macroTable.position), asc(macroTable.id));
  return rows.map(({ id, name, steps, settings }) => ({
    id,
    name,
    steps: stepsSchema.parse(steps),
    settings: settingsSchema.parse(settings),
  }));
}

/** The macro that is asked for, and what it is planned with. */
export async function readPlanning(context: Context, request: RunRequest): Promise<Planning> {
  const [directory, macros] = await Promise.all([readDirectory(context), readMacros(context)]);
  const planContext = { directory, macros, now: decidedAt(request), zone: context.zone };
  const { macro } = request;
  if (typeof macro === "number") {
    const found = macros.find((m) => m.id === macro);
    if (!found) throw notFound("macro", macro);
    return { macro: found, context: planContext };
  }
  const stored = macros.find((m) => m.id === macro.id);
  const settings: Settings = macro.settings ?? stored?.settings ?? {};
  const steps: readonly Step[] = macro.steps;
  return { macro: { id: macro.id ?? null, name: macro.name, steps, settings }, context: planContext };
}

/** The messages a run is on: those named or matching, and with them their threads if the macro says so. */
export async function targetIds(
  sql: Queryable,
  { person }: Context,
  { macro, context }: Planning,
  target: RunRequest["target"],
): Promise<MessageId[]> {
  let ids: MessageId[];
  if ("ids" in target) ids = [...new Set(target.ids)].map(messageId);
  else {
    const checked = readNarrow(target.narrow, context);
    if (!checked.ok) throw badNarrow(checked.issues);
    const { except = [], through = Infinity, order = "oldest" } = target;
    const left = new Set(except);
    ids = (await pageOfIds(sql, person, checked.test, order, null))
      .map((place) => place.id)
      .filter((id) => id <= through && !left.has(id));
  }
  if (macro.settings.whole !== "thread" || ids.length === 0) return ids;
  const rows = await sql<{ id: number }[]>`
    select id from message where person = ${person} and thread in (
      select thread from message where person = ${person} and id = any(${listOf(ids)}::text::bigint[]))
    order by date, id`;
  return rows.map((row) => messageId(row.id));
}

/** Plans on what is stored now. @throws Refusal when the macro cannot run */
export async function prepare(
  sql: Queryable,
  { person }: Context,
  planning: Planning,
  request: RunRequest,
  ids: readonly MessageId[],
): Promise<Prepared> {
  const { macro, context } = planning;
  // Steps that are no stored macro may run any, also one of the same name.
  const plannable: Plannable = { ...macro, name: macro.id === null ? undefined : macro.name };
  const needs = needsOf(plannable, context);
  const states = await readStates(sql, person, ids);
  const facts = needs.facts ? await readFacts(sql, person, ids, needs.body) : null;
  const guess = facts && needs.guess ? await readGuess(sql, person, facts.values()) : undefined;
  const messages = ids.flatMap((id) => {
    const state = states.get(id);
    return state ? [{ id, state, ...(facts ? { facts: facts.get(id)! } : {}) }] : [];
  });
  const planned = plan(plannable, messages, request.answers ?? {}, { ...context, ...(guess ? { guess } : {}) });
  if (!planned.ok) throw new Refusal(422, "The macro cannot run", planned.problems.map(textOfProblem).join(" "));
  const gone = ids.filter((id) => !states.has(id)).map((id) => ({ message: id, step: 1, reason: "gone" }));
  return { macro, ids, states, plan: planned.plan, gone };
}
