import type { z } from "zod";
import type { TrialPiece, trialRequest } from "@/core/api";
import { editsBetween, type MessageState } from "@/core/change";
import { messageId, type MessageId } from "@/core/id";
import { abilitiesOf, DraftRow, needsOf, plan, textOfProblem, type Facts } from "@/core/macro";
import { matcher, needlesOf, ROW_BY_ROW, TRAIT, type Test } from "@/core/narrow";
import { folderFor } from "@/core/place";
import { arrivedIn, verdictOf, whyAttended } from "@/core/rule";
import { addMonths, instantOf, wallIn } from "@/core/when";
import type { Queryable } from "../db";
import { plannableOf, readBodies, readFacts, readPlanning, Refusal } from "../run";
import { messagesWith } from "../search";
import { readStates } from "../store";
import type { Context } from "./context";
import { endsOf, namesIn } from "./dry";
import { readList } from "./lists";
import { readTest } from "./messages";

/** A rule tried on the past: what it would have done, against what the person did by hand. */

/** Messages of one piece. */
const PIECE = 5000;
const SHOWN = 200;

type Request = z.infer<typeof trialRequest>;

/** The person's mail of a time, newest first, but for what they wrote themselves. */
async function readIds(sql: Queryable, { person }: Context, since: Date, before: Request["before"]) {
  const own = sql`person = ${person} and date >= ${since.toISOString()} and traits & ${TRAIT.mine} = 0`;
  const [count] = await sql<{ all: number }[]>`select count(*)::int as all from message where ${own}`;
  const left = before ? sql`and (date, id) < (${before.at}, ${before.id})` : sql``;
  const rows = await sql<{ id: number }[]>`
    select id from message where ${own} ${left} order by date desc, id desc limit ${PIECE}`;
  return { all: count!.all, ids: rows.map(({ id }) => messageId(id)) };
}

/** A condition on messages as they arrived. Which hold a word is looked up: parsing a year of mail takes minutes. */
async function arrivalTest(sql: Queryable, { person }: Context, test: Test, arrived: MessageState) {
  const holding = new Map<string, Set<MessageId>>();
  for (const needle of needlesOf(test)) holding.set(needle, new Set(await messagesWith(sql, person, needle)));
  const row = new DraftRow();
  let current: MessageId;
  const matches = matcher(test, {
    ...ROW_BY_ROW,
    words: (needle) => () => holding.get(needle)!.has(current),
  });
  row.draft = arrived;
  return (id: MessageId, facts: Facts): boolean => {
    [current, row.facts] = [id, facts];
    return matches(row);
  };
}

const NOTHING_YET = { agrees: 0, differs: 0, nothing: 0 };

/**
 * Tries a condition and a macro on one piece of the past.
 * @throws Refusal where the macro is not there, needs somebody, or goes by what was learned from that very past
 */
export async function tryOnPast(context: Context, request: Request): Promise<TrialPiece> {
  const { zone, person, db } = context;
  const { sql } = db;
  const planning = await readPlanning(sql, context, { macro: request.macro });
  const { macro, context: by } = planning;
  const why = whyAttended(abilitiesOf(macro, by.macros));
  if (why !== null) throw new Refusal(422, "The macro cannot be a rule", `${macro.name}: ${why} Choose another macro.`);
  const plannable = plannableOf(macro);
  const needs = needsOf(plannable, by);
  if (needs.guess)
    throw new Refusal(
      422,
      "It cannot be tried on the past",
      `${macro.name} files as guessed, and the guesses were learned from that very mail.`,
    );
  const inbox = folderFor(by.directory, "inbox")!.id;
  const arrived = arrivedIn(inbox);
  const isFor = await arrivalTest(sql, context, await readTest(context, request.narrow), arrived);
  const since = instantOf(zone, addMonths(wallIn(zone, by.now), -request.months));
  const { all, ids } = await readIds(sql, context, since, request.before);
  const facts = await readFacts(sql, person, ids, null);
  const senders = request.list === undefined ? null : new Set((await readList(context, request.list)).addresses);
  const meant = ids.filter((id) => {
    const fact = facts.get(id)!;
    return (senders === null || senders.has(fact.fromAddress.toLowerCase())) && isFor(id, fact);
  });
  const bodies = needs.body ? await readBodies(sql, person, meant) : null;
  const messages = meant.map((id) => ({
    id,
    state: arrived,
    facts: bodies ? { ...facts.get(id)!, body: bodies.get(id) ?? null } : facts.get(id)!,
  }));
  const planned = plan(plannable, messages, {}, by);
  if (!planned.ok) throw new Refusal(422, "The macro cannot run", planned.problems.map(textOfProblem).join(" "));
  const states = await readStates(sql, person, meant);
  const months = new Map<string, { agrees: number; differs: number; nothing: number }>();
  const differing: TrialPiece["differing"] = [];
  const names = namesIn(by.directory);
  const made = new Set(planned.plan.things.map(({ source }) => source));
  for (const id of meant) {
    const edits = planned.plan.change.messages.get(id) ?? [];
    const now = states.get(id);
    if (!now || (edits.length === 0 && !made.has(id))) continue;
    const { fromName, fromAddress, subject, dateMs } = facts.get(id)!;
    const at = new Date(dateMs);
    const verdict = verdictOf(edits, arrived, now);
    const { year, month } = wallIn(zone, at);
    const key = `${year}-${String(month).padStart(2, "0")}`;
    const shares = months.get(key) ?? { ...NOTHING_YET };
    shares[verdict]++;
    months.set(key, shares);
    if (verdict !== "differs" || differing.length >= SHOWN) continue;
    const would = endsOf(arrived, edits, names).after;
    // Also what else was decided: a message that is still in the inbox may be flagged there.
    const more = editsBetween({ ...arrived, read: now.read }, now);
    const did = { ...endsOf(arrived, more, names).after, ...endsOf(now, edits, names).before };
    differing.push({ id, at: at.toISOString(), from: fromName || fromAddress, subject, would, did });
  }
  const last = ids.length < PIECE ? undefined : ids.at(-1);
  return {
    all,
    looked: ids.length,
    months: [...months].map(([month, shares]) => ({ month, ...shares })),
    differing,
    before: last ? { at: new Date(facts.get(last)!.dateMs).toISOString(), id: last } : null,
  };
}
