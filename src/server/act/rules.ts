import type { z } from "zod";
import type { newRule, RuleShape, rulePatch } from "@/core/api";
import type { PersonId } from "@/core/id";
import { abilitiesOf } from "@/core/macro";
import { loadNarrow, storeNarrow, type NameOf, type StoredNarrow } from "@/core/narrow";
import { exceptFrom, whyAttended } from "@/core/rule";
import type { Queryable, Transaction } from "../db";
import { causeOf, inTurn, notFound, readDirectory, readMacros, readNames, Refusal } from "../run";
import { listOf, tell } from "../store";
import type { Context } from "./context";
import { changeList } from "./lists";
import { placeAt } from "./order";
import { readTest } from "./messages";

/** What is done with mail that comes in: a condition and a macro, in the person's order. */

const WEEK_DAYS = 7;
/** More of them than anybody can keep an eye on. */
const MOST_RULES = 500;

type Row = Omit<RuleShape, "narrow" | "touched"> & { readonly narrow: StoredNarrow };

async function readRules(sql: Queryable, person: PersonId, nameOf: NameOf): Promise<RuleShape[]> {
  const rows = await sql<Row[]>`
    select r.id, r.narrow, r.list, case when m.id is null then null else r.macro end as macro, r.is_on as on, r.stop,
      r.time, r.more_than as "moreThan", r.outside, r.hold_minutes as "holdMinutes", r.look, r.remark,
      coalesce(case when r.macro is not null and m.id is null then 'Its macro was deleted.' end, r.trouble) as trouble,
      (select count(*)::int from listed l where l.person = r.person and l.list = lower(r.list)) as senders
    from rule r left join macro m on m.person = r.person and m.id = r.macro and m.deleted_at is null
    where r.person = ${person} and r.deleted_at is null order by r.position, r.id`;
  if (rows.length === 0) return [];
  const touched = await sql<{ cause: string; messages: number }[]>`
    select cause, sum(messages)::int as messages from ledger
    where person = ${person} and actor = 'rule' and kind = 'run' and cause = any(${rows.map(({ id }) => causeOf(id))}::text[])
      and at > now() - make_interval(days => ${WEEK_DAYS}) group by cause`;
  const by = new Map(touched.map(({ cause, messages }) => [cause, messages]));
  return rows.map((row) => ({ ...row, narrow: loadNarrow(row.narrow, nameOf), touched: by.get(causeOf(row.id)) ?? 0 }));
}

export async function listRules({ db, person }: Context): Promise<RuleShape[]> {
  const { nameOf } = await readNames(db.sql, person);
  return readRules(db.sql, person, nameOf);
}

/** @throws Refusal where the macro is not there, or cannot be done with nobody there, or where there has to be one */
async function checkMacro(
  tx: Transaction,
  person: PersonId,
  { macro: id, time }: Pick<RuleShape, "macro" | "time">,
  nameOf: NameOf,
): Promise<void> {
  if (id === null) {
    if (time === "sending") return;
    throw new Refusal(422, "The rule has no macro", "Its macro was deleted. Choose another.");
  }
  const macros = await readMacros(tx, person, nameOf);
  const macro = macros.find((one) => one.id === id);
  if (!macro) throw notFound("macro", id);
  const why = whyAttended(abilitiesOf(macro, macros), time);
  if (why !== null) throw new Refusal(422, "The macro cannot be a rule", `${macro.name}: ${why} Choose another macro.`);
}

async function findRule(sql: Queryable, person: PersonId, id: number, nameOf: NameOf): Promise<RuleShape> {
  const found = (await readRules(sql, person, nameOf)).find((rule) => rule.id === id);
  if (!found) throw notFound("rule", id);
  return found;
}

/** @throws Refusal where so many more would be too many */
export async function checkRoom(tx: Transaction, person: PersonId, more: number): Promise<void> {
  const [there] = await tx<{ count: number }[]>`
    select count(*)::int from rule where person = ${person} and deleted_at is null`;
  if (there!.count + more > MOST_RULES)
    throw new Refusal(
      422,
      "Too many rules",
      `There are ${there!.count} rules, and there may be ${MOST_RULES}. Delete some that are of no use any more.`,
    );
}

type NewRule = z.infer<typeof newRule>;
/** What a rule is where nothing else is said. */
const PLAIN = {
  list: null,
  time: "arrival",
  moreThan: null,
  outside: false,
  holdMinutes: null,
  look: null,
  remark: null,
} as const;

export async function createRule(
  context: Context,
  body: Omit<NewRule, keyof typeof PLAIN> & Partial<NewRule>,
): Promise<RuleShape> {
  const { db, person } = context;
  const fresh = { ...PLAIN, ...body };
  await readTest(context, fresh.narrow);
  return inTurn(db, person, async (tx) => {
    const { idOf, nameOf } = await readNames(tx, person);
    await checkMacro(tx, person, fresh, nameOf);
    await checkRoom(tx, person, 1);
    const [row] = await tx<{ id: number }[]>`
      insert into rule (person, narrow, macro, is_on, stop, list, time, more_than, outside, hold_minutes, look, remark, position)
      values (${person}, ${JSON.stringify(storeNarrow(fresh.narrow, idOf))}::text::jsonb, ${fresh.macro}, ${fresh.on},
        ${fresh.stop}, ${fresh.list}, ${fresh.time}, ${fresh.moreThan}, ${fresh.outside}, ${fresh.holdMinutes}, ${fresh.look}, ${fresh.remark},
        (select coalesce(max(position), 0) + 1 from rule where person = ${person})) returning id`;
    await tell(tx, person, "settings");
    return findRule(tx, person, row!.id, nameOf);
  });
}

type RulePatch = z.infer<typeof rulePatch>;

/** @param patch what becomes of the rule, by what it is in the turn in which it is changed */
async function change(
  context: Context,
  id: number,
  patch: (now: RuleShape) => RulePatch,
  deleted?: false,
): Promise<RuleShape> {
  const { db, person } = context;
  return inTurn(db, person, async (tx) => {
    const { idOf, nameOf } = await readNames(tx, person);
    if (deleted === false) await tx`update rule set deleted_at = null where person = ${person} and id = ${id}`;
    const before = await findRule(tx, person, id, nameOf);
    const body = patch(before);
    if (body.narrow !== undefined) await readTest(context, body.narrow, await readDirectory(tx, person));
    const next = { ...before, ...body };
    if (body.macro !== undefined || body.time !== undefined || body.on === true)
      await checkMacro(tx, person, next, nameOf);
    // What is changed by hand begins anew: it has not failed yet. A macro that was deleted may come back.
    await tx`
      update rule set narrow = ${JSON.stringify(storeNarrow(next.narrow, idOf))}::text::jsonb,
        macro = case when ${body.macro !== undefined} then ${next.macro}::int else macro end,
        is_on = ${next.on}, stop = ${next.stop}, list = ${next.list}, time = ${next.time}, more_than = ${next.moreThan},
        outside = ${next.outside}, hold_minutes = ${next.holdMinutes}, look = ${next.look}, remark = ${next.remark}, failures = 0, trouble = null
      where person = ${person} and id = ${id}`;
    if (body.position !== undefined) await placeAt(tx, "rule", person, id, body.position);
    await tell(tx, person, "settings");
    return findRule(tx, person, id, nameOf);
  });
}

export const changeRule = (context: Context, id: number, { deleted, ...body }: RulePatch): Promise<RuleShape> =>
  change(context, id, () => body, deleted);

export async function deleteRule({ db, person }: Context, id: number): Promise<void> {
  await inTurn(db, person, async (tx) => {
    const gone = await tx`
      update rule set deleted_at = now() where person = ${person} and id = ${id} and deleted_at is null`;
    if (gone.count === 0) throw notFound("rule", id);
    await tell(tx, person, "settings");
  });
}

/** The rule is for those who wrote some messages no more. */
export async function exceptSenders(context: Context, id: number, ids: readonly number[]): Promise<RuleShape> {
  const { db, person } = context;
  const rows = await db.sql<{ address: string }[]>`
    select distinct lower(from_address) as address from message
    where person = ${person} and id = any(${listOf(ids)}::text::bigint[]) and from_address <> '' order by 1`;
  const addresses = rows.map(({ address }) => address);
  const { nameOf } = await readNames(db.sql, person);
  const { list } = await findRule(db.sql, person, id, nameOf);
  if (list === null) return change(context, id, ({ narrow }) => ({ narrow: exceptFrom(narrow, addresses) }));
  // Who is no more on its list is left out by that.
  await changeList(context, list, { add: [], remove: addresses });
  return findRule(db.sql, person, id, nameOf);
}
