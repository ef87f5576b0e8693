import type { PersonId } from "@/core/id";
import { loadSettings, loadSteps, type Settings, type Step } from "@/core/macro";
import { loadNarrow, readNarrow, textOfIssue, type StoredNarrow } from "@/core/narrow";
import type { Reach, RuleTime, Ruled } from "@/core/rule";
import type { Queryable, Transaction } from "../db";
import { tell } from "../store";
import { log } from "../watch";
import type { Names } from "./directory";
import { Refusal } from "./refusal";
import type { Who } from "./turn";

/** The rules a person has, as they are done; and what becomes of one that cannot be. */

/** A rule that failed so often in a row is switched off. */
const MOST_FAILURES = 3;
/** In the ledger: "rule 7". */
export const causeOf = (rule: number): string => `rule ${rule}`;

interface Row {
  readonly id: number;
  readonly narrow: StoredNarrow;
  readonly stop: boolean;
  readonly list: string | null;
  /** null for one on sending that does nothing by a macro. */
  readonly macro: number | null;
  /** null where it was deleted. */
  readonly name: string | null;
  readonly steps: unknown;
  readonly settings: unknown;
  readonly moreThan: number | null;
  readonly outside: boolean;
  readonly holdMinutes: number | null;
}

export interface Rule extends Ruled, Reach {
  readonly id: number;
  readonly macro: {
    readonly id: number;
    readonly name: string;
    readonly steps: readonly Step[];
    readonly settings: Settings;
  } | null;
  /** On sending, how long a letter is held at least. */
  readonly holdMinutes: number | null;
}

async function readRows(sql: Queryable, person: PersonId, time: RuleTime): Promise<Row[]> {
  return sql<Row[]>`
    select r.id, r.narrow, r.stop, r.list, r.macro, m.name, m.steps, m.settings,
      r.more_than as "moreThan", r.outside, r.hold_minutes as "holdMinutes"
    from rule r left join macro m on m.person = r.person and m.id = r.macro and m.deleted_at is null
    where r.person = ${person} and r.time = ${time} and r.is_on and r.deleted_at is null order by r.position, r.id`;
}

/** What keeps a rule from being done at all, in words. */
export class Unable extends Error {}

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
  if (row.macro !== null && row.name === null) throw new Unable("Its macro was deleted.");
  const checked = readNarrow(loadNarrow(row.narrow, nameOf), { directory, now, zone });
  if (!checked.ok) throw new Unable(checked.issues.map(textOfIssue).join(" "));
  const { moreThan, outside, holdMinutes, macro, name } = row;
  return {
    id,
    stop,
    moreThan,
    outside,
    holdMinutes,
    test: checked.test,
    macro:
      macro === null || name === null
        ? null
        : { id: macro, name, steps: loadSteps(row.steps, nameOf), settings: loadSettings(row.settings, nameOf) },
  };
}

async function noteFailure(tx: Transaction, person: PersonId, rule: number, trouble: string): Promise<void> {
  await tx`
    update rule set failures = failures + 1, trouble = ${trouble}, is_on = failures + 1 < ${MOST_FAILURES}
    where person = ${person} and id = ${rule}`;
  await tell(tx, person, "settings");
}

function saidOf(error: unknown): string {
  if (error instanceof Refusal) return error.detail;
  if (error instanceof Unable) return error.message;
  // A fault of ours must not keep anybody's mail from coming in, with every try anew.
  log.fault("a rule failed", error);
  return "Something went wrong in it that is no fault of yours.";
}

/** The rules of a time that are on, in their order. One that cannot be read is left out, with its reason. */
export async function readBook(
  tx: Transaction,
  { person, zone }: Who,
  names: Names,
  time: RuleTime,
): Promise<readonly Rule[]> {
  const rows = await readRows(tx, person, time);
  const now = new Date();
  const rules: Rule[] = [];
  const lists = await readLists(tx, person, rows);
  for (const row of rows)
    try {
      const senders = row.list === null ? null : lists.get(row.list.toLowerCase())!;
      rules.push({ ...ruleOf(row, names, now, zone), senders });
    } catch (error) {
      // Whatever is wrong with it, it keeps no mail from coming in, and no letter from leaving.
      await noteFailure(tx, person, row.id, saidOf(error));
    }
  return rules;
}

/** Whether a person has rules of a time that are on. */
export async function hasRules(sql: Queryable, person: PersonId, time: RuleTime): Promise<boolean> {
  const [any] = await sql`
    select from rule where person = ${person} and time = ${time} and is_on and deleted_at is null limit 1`;
  return any !== undefined;
}

/** Does what a rule says, in a savepoint of its own. @returns whether it was done; else its reason is noted */
export async function tryRule(
  tx: Transaction,
  { person }: Who,
  rule: Rule,
  deed: (tx: Transaction) => Promise<void>,
): Promise<boolean> {
  try {
    await tx.savepoint(async (sp) => {
      await deed(sp as Transaction);
      await sp`update rule set failures = 0, trouble = null where person = ${person} and id = ${rule.id} and failures > 0`;
    });
    return true;
  } catch (error) {
    await noteFailure(tx, person, rule.id, saidOf(error));
    return false;
  }
}
