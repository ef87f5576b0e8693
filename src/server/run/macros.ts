import type { PersonId } from "@/core/id";
import { loadSettings, loadSteps, storeSettings, storeSteps, type NamedMacro } from "@/core/macro";
import { loadNarrow, storeNarrow, type NameOf, type StoredNarrow } from "@/core/narrow";
import type { Queryable, Transaction } from "../db";
import { readNames } from "./directory";

export interface StoredMacro extends NamedMacro {
  readonly id: number;
}

/** As it is kept. */
export interface MacroRow {
  readonly id: number;
  readonly name: string;
  readonly steps: unknown;
  readonly settings: unknown;
}

/** The person's macros with names as they are today. */
export async function readMacros(sql: Queryable, person: PersonId, nameOf: NameOf): Promise<StoredMacro[]> {
  const rows = await sql<MacroRow[]>`
    select id, name, steps, settings from macro where person = ${person} and deleted_at is null order by position, id`;
  return macrosOf(rows, nameOf);
}

export const macrosOf = (rows: readonly MacroRow[], nameOf: NameOf): StoredMacro[] =>
  rows.map(({ id, name, steps, settings }) => ({
    id,
    name,
    steps: loadSteps(steps, nameOf),
    settings: loadSettings(settings, nameOf),
  }));

/**
 * Puts ids in the place of names that mean something by now, in all macros, batches and rules: for what was kept by an
 * older version, and for names that stood for nothing until their folder, label or macro was made.
 */
export async function settleNames(tx: Transaction, person: PersonId): Promise<void> {
  const { idOf, nameOf } = await readNames(tx, person);
  const macros = await tx<{ id: number; steps: unknown; settings: unknown }[]>`
    select id, steps, settings from macro where person = ${person}`;
  for (const { id, steps, settings } of macros) {
    const next = storeSteps(loadSteps(steps, nameOf), idOf);
    const which = storeSettings(loadSettings(settings, nameOf), idOf);
    await tx`
      update macro set steps = ${JSON.stringify(next)}::text::jsonb, settings = ${JSON.stringify(which)}::text::jsonb
      where person = ${person} and id = ${id}`;
  }
  const batches = await tx<{ id: number; narrow: StoredNarrow }[]>`
    select id, narrow from batch where person = ${person}`;
  for (const { id, narrow } of batches) {
    const next = storeNarrow(loadNarrow(narrow, nameOf), idOf);
    await tx`update batch set narrow = ${JSON.stringify(next)}::text::jsonb where person = ${person} and id = ${id}`;
  }
  const rules = await tx<{ id: number; narrow: StoredNarrow }[]>`select id, narrow from rule where person = ${person}`;
  for (const { id, narrow } of rules) {
    const next = storeNarrow(loadNarrow(narrow, nameOf), idOf);
    await tx`update rule set narrow = ${JSON.stringify(next)}::text::jsonb where person = ${person} and id = ${id}`;
  }
  const hours = await tx<{ id: number; narrow: StoredNarrow; through: StoredNarrow | null }[]>`
    select id, narrow, through from hours where person = ${person}`;
  for (const { id, narrow, through } of hours) {
    const [which, past] = [narrow, through].map((one) =>
      one === null ? null : JSON.stringify(storeNarrow(loadNarrow(one, nameOf), idOf)),
    );
    await tx`
      update hours set narrow = ${which!}::text::jsonb, through = ${past ?? null}::text::jsonb
      where person = ${person} and id = ${id}`;
  }
}
