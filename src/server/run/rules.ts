import { randomUUID } from "node:crypto";
import { messageId, runId, type MessageId, type PersonId } from "@/core/id";
import { abilitiesOf, loadSettings, loadSteps, type Settings, type Step } from "@/core/macro";
import { asksForWords, loadNarrow, readNarrow, textOfIssue, TRAIT, type StoredNarrow } from "@/core/narrow";
import { folderFor } from "@/core/place";
import { ruling, whyAttended, type Ruled } from "@/core/rule";
import type { Queryable, Transaction } from "../db";
import { readStates, takeTurn, tell } from "../store";
import { apply } from "./apply";
import { readNames, type Names } from "./directory";
import { readBodies, readFacts } from "./facts";
import { prepare } from "./planning";
import { Refusal } from "./refusal";
import { whoIs, type Who } from "./turn";

/** A rule that failed so often in a row is switched off. */
const MOST_FAILURES = 3;
/** In the ledger: "rule 7". */
export const causeOf = (rule: number): string => `rule ${rule}`;

interface Row {
  readonly id: number;
  readonly narrow: StoredNarrow;
  readonly stop: boolean;
  readonly list: string | null;
  readonly macro: number;
  /** null where it was deleted. */
  readonly name: string | null;
  readonly steps: unknown;
  readonly settings: unknown;
}

interface Rule extends Ruled {
  readonly id: number;
  readonly macro: {
    readonly id: number;
    readonly name: string;
    readonly steps: readonly Step[];
    readonly settings: Settings;
  };
}

async function readRows(sql: Queryable, person: PersonId): Promise<Row[]> {
  return sql<Row[]>`
    select r.id, r.narrow, r.stop, r.list, r.macro, m.name, m.steps, m.settings
    from rule r left join macro m on m.person = r.person and m.id = r.macro and m.deleted_at is null
    where r.person = ${person} and r.is_on and r.deleted_at is null order by r.position, r.id`;
}

/** What keeps a rule from being done at all, in words. */
class Unable extends Error {}

/** Who is on the lists that rules are for, by the list's name in lower case. */
async function readLists(sql: Queryable, person: PersonId, rows: readonly Row[]): Promise<Map<string, Set<string>>> {
  const lists = new Map<string, Set<string>>();
  for (const { list } of rows) if (list !== null) lists.set(list.toLowerCase(), new Set());
  if (lists.size === 0) return lists;
  const listed = await sql<{ list: string; address: string }[]>`
    select list, address from listed where person = ${person} and list = any(${[...lists.keys()]}::text[])`;
  for (const { list, address } of listed) lists.get(list)!.add(address);
  return lists;
}

function ruleOf(
  { id, stop, ...row }: Row,
  { directory, nameOf }: Names,
  now: Date,
  zone: string,
): Omit<Rule, "senders"> {
  if (row.name === null) throw new Unable("Its macro was deleted.");
  const checked = readNarrow(loadNarrow(row.narrow, nameOf), { directory, now, zone });
  if (!checked.ok) throw new Unable(checked.issues.map(textOfIssue).join(" "));
  const settings = loadSettings(row.settings, nameOf);
  return {
    id,
    stop,
    test: checked.test,
    macro: { id: row.macro, name: row.name, steps: loadSteps(row.steps, nameOf), settings },
  };
}

async function noteFailure(tx: Transaction, person: PersonId, rule: number, trouble: string): Promise<void> {
  await tx`
    update rule set failures = failures + 1, trouble = ${trouble}, is_on = failures + 1 < ${MOST_FAILURES}
    where person = ${person} and id = ${rule}`;
  await tell(tx, person, "settings");
}

/** Plans and writes one rule's macro on what it is for. @throws Unable where nobody is there to do what it needs */
async function applyOne(tx: Transaction, who: Who, { id, macro }: Rule, on: readonly MessageId[]): Promise<void> {
  const { whole: _, ...settings } = macro.settings;
  const asked = { macro: { ...macro, settings }, target: { ids: [...on] }, answers: {}, at: new Date().toISOString() };
  const prepared = await prepare(tx, who, asked, null);
  const why = whyAttended(abilitiesOf(macro, prepared.context.macros));
  if (why !== null) throw new Unable(why);
  const run = runId(randomUUID());
  const seq = await takeTurn(tx, who.person);
  await apply(tx, who, prepared, { seq, id: run, actor: "rule", cause: causeOf(id) });
}

function saidOf(error: unknown): string {
  if (error instanceof Refusal) return error.detail;
  if (error instanceof Unable) return error.message;
  // A fault of ours must not keep anybody's mail from coming in, with every try anew.
  console.error(error);
  return "Something went wrong in it that is no fault of yours.";
}

/**
 * Does what rules say about mail that has just come into the inbox, in the same transaction: nothing of it is ever
 * seen there. Each rule is an entry of its own. One that cannot be done is left out with its reason, and switched off
 * after a few times; the mail comes in whatever rules do.
 */
export async function applyRules(tx: Transaction, person: PersonId, arrived: readonly number[]): Promise<void> {
  const rows = await readRows(tx, person);
  if (rows.length === 0 || arrived.length === 0) return;
  const who = await whoIs(tx, person);
  const names = await readNames(tx, person);
  const now = new Date();
  const rules: Rule[] = [];
  const lists = await readLists(tx, person, rows);
  for (const row of rows)
    try {
      const senders = row.list === null ? null : lists.get(row.list.toLowerCase())!;
      rules.push({ ...ruleOf(row, names, now, who.zone), senders });
    } catch (error) {
      if (!(error instanceof Unable)) throw error;
      await noteFailure(tx, person, row.id, error.message);
    }
  const ids = arrived.map(messageId);
  const bodies = rules.some(({ test }) => asksForWords(test)) ? await readBodies(tx, person, ids) : null;
  const facts = await readFacts(tx, person, ids, bodies);
  let states = await readStates(tx, person, ids);
  const inbox = folderFor(names.directory, "inbox")?.id;
  const meant = ids.filter((id) => states.get(id)?.folder === inbox && (facts.get(id)!.traits & TRAIT.mine) === 0);
  const look = (id: MessageId) => {
    const state = states.get(id);
    return state && { state, facts: facts.get(id)! };
  };
  const doOne = async (rule: Rule, on: readonly MessageId[]): Promise<boolean> => {
    try {
      await tx.savepoint(async (sp) => {
        await applyOne(sp as Transaction, who, rule, on);
        await sp`update rule set failures = 0, trouble = null where person = ${person} and id = ${rule.id} and failures > 0`;
      });
      states = await readStates(tx, person, ids);
      return true;
    } catch (error) {
      await noteFailure(tx, person, rule.id, saidOf(error));
      return false;
    }
  };
  const walk = ruling(rules, meant, look);
  for (let next = walk.next(); !next.done;) next = walk.next(await doOne(next.value.rule, next.value.on));
}
