import type { MessageState } from "@/core/change";
import type { RunRequest } from "@/core/api";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import {
  needsOf,
  plan,
  readSeen,
  textOfProblem,
  type Answers,
  type Guess,
  type NamedMacro,
  type Plan,
  type PlanContext,
  type Plannable,
  type Settings,
} from "@/core/macro";
import { readNarrow, TRAIT } from "@/core/narrow";
import type { Queryable } from "../db";
import { pageOfIds } from "../search";
import { listOf, readStates } from "../store";
import { guessesFor } from "../filing";
import { withoutComing } from "./coming";
import { readBodies, readFacts, type Bodies } from "./facts";
import { badNarrow, notFound, Refusal } from "./refusal";
import type { Who } from "./turn";
import { readWorld } from "./world";

export interface Macro extends NamedMacro {
  readonly id: number | null;
}

/** What to run, on what, and what was answered. */
export type Asked = Pick<RunRequest, "macro" | "target" | "answers" | "at" | "guesses">;

/** What runs are planned with: names, and the macros that macros may run. */
export interface Planning {
  readonly macro: Macro;
  readonly context: PlanContext;
}

export interface Prepared extends Planning {
  readonly ids: readonly MessageId[];
  readonly states: ReadonlyMap<MessageId, MessageState>;
  readonly plan: Plan;
  readonly answers?: Answers | undefined;
  /** Messages that were named but do not exist. */
  readonly gone: readonly { message: number; step: number; reason: string }[];
}

/** A run may have waited this long for the server to come back. */
const LONGEST_WAIT_MS = 30 * 86_400_000;

/** When it was decided; times such as +3h count from it. */
function decidedAt({ at }: Pick<RunRequest, "at">): Date {
  const now = new Date();
  const decided = at ? new Date(at) : now;
  return decided > now || now.getTime() - decided.getTime() > LONGEST_WAIT_MS ? now : decided;
}

/** The macro that is asked for, and what it is planned with. */
export async function readPlanning(sql: Queryable, who: Who, asked: Omit<Asked, "target">): Promise<Planning> {
  const { names, macros, templates, settings: own } = await readWorld(sql, who.person);
  const { directory } = names;
  const context = { directory, macros, templates, now: decidedAt(asked), zone: who.zone, leastSure: own.leastSure };
  const { macro } = asked;
  if (typeof macro === "number") {
    const found = macros.find((m) => m.id === macro);
    if (!found) throw notFound("macro", macro);
    return { macro: found, context };
  }
  const stored = macros.find((m) => m.id === macro.id);
  const settings: Settings = macro.settings ?? stored?.settings ?? {};
  return { macro: { id: macro.id ?? null, name: macro.name, steps: macro.steps, settings }, context };
}

/** The messages a run is on: those named or matching, and with them their threads if the macro says so. */
export async function targetIds(
  sql: Queryable,
  person: PersonId,
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
  const { whole } = macro.settings;
  if (whole === undefined || ids.length === 0) return ids;
  // Within the places the messages are in, and never the person's own mail, unless it is to be all of the thread.
  const everywhere = whole === "thread everywhere";
  const rows = await sql<{ id: number }[]>`
    with chosen as materialized (
      select m.id, m.thread, s.folder from message m
        join message_state s on s.person = m.person and s.message = m.id
      where m.person = ${person} and m.id = any(${listOf(ids)}::text::bigint[]))
    select m.id from message m join message_state s on s.person = m.person and s.message = m.id
    where m.person = ${person} and m.thread in (select thread from chosen)
      and (${everywhere} or m.id in (select id from chosen)
        or (m.traits & ${TRAIT.mine} = 0 and (m.thread, s.folder) in (select thread, folder from chosen)))
    order by m.date, m.id`;
  return rows.map((row) => messageId(row.id));
}

/** Steps that are no stored macro may run any, also one of the same name. */
export const plannableOf = (macro: Macro): Plannable => ({
  ...macro,
  name: macro.id === null ? undefined : macro.name,
});

/** What takes too long for a turn; null where it is not needed. */
export interface Ahead {
  readonly bodies: Bodies | null;
  readonly guesses: Guesses | null;
}

/** Thrown in a turn where a plan needs what has to be read before it: then it is, and the turn taken again. */
export class NeedsAhead extends Error {}

type Guesses = ReadonlyMap<MessageId, ReturnType<Guess>>;

/** Guesses for all of some messages: what the person saw is meant, for the others what is learned by now says. */
export async function guessesOn(
  sql: Queryable,
  { person }: Who,
  asked: Pick<Asked, "guesses">,
  ids: readonly MessageId[],
  ahead: Guesses | null,
): Promise<Guesses> {
  const known = new Map<MessageId, ReturnType<Guess>>([...(ahead ?? []), ...readSeen(asked.guesses ?? [])]);
  const others = ids.filter((id) => !known.has(id));
  for (const [id, { guesses }] of await guessesFor(sql, person, others, new Date())) known.set(id, guesses);
  return known;
}

/**
 * What only the sources hold and what filing has taught, read before the turn: parsing or ranking thousands of
 * messages must not keep the person's other writers waiting.
 */
export async function readAhead(sql: Queryable, who: Who, asked: Asked): Promise<Ahead> {
  const planning = await readPlanning(sql, who, asked);
  const { body, guess } = needsOf(plannableOf(planning.macro), planning.context);
  if (!body && !guess) return { bodies: null, guesses: null };
  const ids = await targetIds(sql, who.person, planning, asked.target);
  return {
    bodies: body ? await readBodies(sql, who.person, ids) : null,
    guesses: guess ? await guessesOn(sql, who, asked, ids, null) : null,
  };
}

/**
 * Plans on what is stored now.
 * @param given what was read ahead; null where nothing can be, "unread" where it was not looked at yet
 * @param read what it is planned with, where that was asked for before, in the same turn
 * @throws Refusal when the macro cannot run
 * @throws NeedsAhead where something has to be read ahead that was not
 */
export async function prepare(
  sql: Queryable,
  who: Who,
  asked: Asked,
  given: Ahead | null | "unread",
  read: Promise<Planning> = readPlanning(sql, who, asked),
): Promise<Prepared> {
  const { person } = who;
  const planning = await read;
  const { macro, context } = planning;
  const plannable = plannableOf(macro);
  const needs = needsOf(plannable, context);
  if (given === "unread" && (needs.body || needs.guess)) throw new NeedsAhead();
  const ahead = given === "unread" ? null : given;
  const ids = await targetIds(sql, person, planning, asked.target);
  const states = await readStates(sql, person, ids);
  const words = needs.body ? (ahead?.bodies ?? new Map()) : null;
  const facts = needs.facts ? await readFacts(sql, person, ids, words) : null;
  const guesses = needs.guess ? await guessesOn(sql, who, asked, ids, ahead?.guesses ?? null) : null;
  const messages = ids.flatMap((id) => {
    const state = states.get(id);
    return state ? [{ id, state, ...(facts ? { facts: facts.get(id)! } : {}) }] : [];
  });
  const planned = plan(plannable, messages, asked.answers ?? {}, {
    ...context,
    ...(guesses ? { guess: (id) => guesses.get(id) ?? [] } : {}),
  });
  if (!planned.ok) throw new Refusal(422, "The macro cannot run", planned.problems.map(textOfProblem).join(" "));
  const gone = ids.filter((id) => !states.has(id)).map((id) => ({ message: id, step: 1, reason: "gone" }));
  const possible = await withoutComing(sql, person, planned.plan);
  return { macro, context, ids, states, plan: possible, gone, answers: asked.answers };
}
