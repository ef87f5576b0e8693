import { randomUUID } from "node:crypto";
import { filterChange, type Change } from "@/core/change";
import { messageId, runId, type MessageId, type PersonId } from "@/core/id";
import { abilitiesOf } from "@/core/macro";
import { asksForWords, TRAIT } from "@/core/narrow";
import { folderFor } from "@/core/place";
import { reaches, ruling, whyAttended, type Arrived, type RuleTime } from "@/core/rule";
import type { Transaction } from "../db";
import { listOf, ownAddresses, readStates, takeTurn } from "../store";
import { apply } from "./apply";
import { readNames } from "./directory";
import { readBodies, readFacts } from "./facts";
import { prepare } from "./planning";
import { causeOf, hasRules, readBook, tryRule, Unable, type Rule } from "./rule-book";
import { whoIs, type Who } from "./turn";

/** What rules do: to mail that comes in, and to letters as they are queued. */

/**
 * Plans and writes one rule's macro on what it is for.
 * @param keep what of the change is written
 * @throws Unable where nobody is there to do what it needs
 */
async function applyOne(
  tx: Transaction,
  who: Who,
  { id, macro }: Rule,
  on: readonly MessageId[],
  time: RuleTime,
  keep: (change: Change) => Change,
): Promise<void> {
  if (macro === null) return;
  const { whole: _, ...settings } = macro.settings;
  const asked = { macro: { ...macro, settings }, target: { ids: [...on] }, answers: {}, at: new Date().toISOString() };
  const prepared = await prepare(tx, who, asked, null);
  const why = whyAttended(abilitiesOf(macro, prepared.context.macros), time);
  if (why !== null) throw new Unable(why);
  const plan = { ...prepared.plan, change: keep(prepared.plan.change) };
  const seq = await takeTurn(tx, who.person);
  const doing = { seq, id: runId(randomUUID()), actor: "rule", cause: causeOf(id) } as const;
  await apply(tx, who, { ...prepared, plan }, { ...doing, onQueued: (queued) => applyOnSending(tx, who, queued) });
}

/** Goes through rules in their order, each on what those before have made of the messages. */
async function goThrough(
  tx: Transaction,
  who: Who,
  rules: readonly Rule[],
  messages: readonly MessageId[],
  deed: (tx: Transaction, rule: Rule, on: readonly MessageId[]) => Promise<void>,
): Promise<void> {
  const bodies = rules.some(({ test }) => asksForWords(test)) ? await readBodies(tx, who.person, messages) : null;
  const facts = await readFacts(tx, who.person, messages, bodies);
  let states = await readStates(tx, who.person, messages);
  const look = (id: MessageId): Arrived | undefined => {
    const [state, fact] = [states.get(id), facts.get(id)];
    return state && fact && { state, facts: fact };
  };
  const walk = ruling(rules, messages, look);
  for (let next = walk.next(); !next.done;) {
    const { rule, on } = next.value;
    const isDone = await tryRule(tx, who, rule, (sp) => deed(sp, rule, on));
    if (isDone) states = await readStates(tx, who.person, messages);
    next = walk.next(isDone);
  }
}

/**
 * Does what rules say about mail that has just come into the inbox, in the same transaction: nothing of it is ever
 * seen there. Each rule is an entry of its own. One that cannot be done is left out with its reason, and switched off
 * after a few times; the mail comes in whatever rules do.
 */
export async function applyRules(tx: Transaction, person: PersonId, arrived: readonly number[]): Promise<void> {
  if (arrived.length === 0 || !(await hasRules(tx, person, "arrival"))) return;
  const who = await whoIs(tx, person);
  const names = await readNames(tx, person);
  const rules = await readBook(tx, who, names, "arrival");
  const ids = arrived.map(messageId);
  const states = await readStates(tx, person, ids);
  const inbox = folderFor(names.directory, "inbox")?.id;
  const own = await tx<{ id: number }[]>`
    select m.id from unnest(${listOf(ids)}::text::bigint[]) n join message m on m.person = ${person} and m.id = n
    where m.traits & ${TRAIT.mine} <> 0`;
  const mine = new Set(own.map(({ id }) => id));
  const meant = ids.filter((id) => states.get(id)?.folder === inbox && !mine.has(id));
  await goThrough(tx, who, rules, meant, (sp, rule, on) => applyOne(sp, who, rule, on, "arrival", (change) => change));
}

/** What a rule on sending does to letters that have just been queued. Where it puts them is where their copies go. */
async function onSending(tx: Transaction, who: Who, rule: Rule, on: readonly MessageId[]): Promise<void> {
  const { person } = who;
  const letters = new Set<number>(on);
  if (rule.holdMinutes !== null)
    await tx`
      update held set at = greatest(at, now() + make_interval(mins => ${rule.holdMinutes}))
      where person = ${person} and message = any(${listOf(on)}::text::bigint[]) and state = 'waiting'`;
  const copies: { message: number; folder: number }[] = [];
  await applyOne(tx, who, rule, on, "sending", (change) =>
    filterChange(
      change,
      (edit, message) => {
        if (edit.kind !== "folder" || !letters.has(message)) return true;
        copies.push({ message, folder: edit.after });
        return false;
      },
      () => true,
    ),
  );
  if (copies.length > 0)
    await tx`
      update draft d set sent = c.folder
      from jsonb_to_recordset(${JSON.stringify(copies)}::text::jsonb) as c(message bigint, folder int)
      where d.person = ${person} and d.message = c.message`;
}

/** Does what rules say about letters as they are queued, in the same transaction: before any of them can leave. */
export async function applyOnSending(tx: Transaction, who: Who, queued: readonly MessageId[]): Promise<void> {
  const { person } = who;
  if (queued.length === 0 || !(await hasRules(tx, person, "sending"))) return;
  const rules = await readBook(tx, who, await readNames(tx, person), "sending");
  const own = await ownAddresses(tx, person);
  const rows = await tx<{ message: MessageId; people: { address: string }[] }[]>`
    select message, recipients || cc || bcc as people from draft
    where person = ${person} and message = any(${listOf(queued)}::text::bigint[])`;
  const people = new Map(rows.map((row) => [row.message, row.people]));
  const reached = (rule: Rule) => (id: MessageId) => reaches(rule, people.get(id) ?? [], own);
  await goThrough(
    tx,
    who,
    rules.map((rule) => ({ ...rule, isFor: reached(rule) })),
    queued,
    (sp, rule, on) => onSending(sp, who, rule, on),
  );
}
