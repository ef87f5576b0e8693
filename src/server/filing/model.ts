import { Taught, type Lesson, type StoredTaught } from "@/core/filing";
import type { PersonId } from "@/core/id";
import type { Queryable } from "../db";

/** What a process holds of what a person's filing has taught: as of an entry of the journal. */
export interface Model {
  readonly epoch: string;
  taught: Taught;
  through: number;
}

interface JournalRow {
  n: number;
  by: 1 | -1;
  receipt: string;
}

/** Of the way of learning: with another one everything is learned anew. */
export const METHOD = 2;

/** How far what is learned has come: the epoch, and the last entry kept or in the journal; null where nothing is. */
async function lookAt(sql: Queryable, person: PersonId): Promise<{ epoch: string; last: number } | null> {
  const [row] = await sql<{ epoch: string; last: number }[]>`
    select epoch, greatest(through, (select max(n) from filing_journal j where j.person = f.person)) as last
    from filing f where person = ${person} and method = ${METHOD}`;
  return row ?? null;
}

/** Reads what was kept, where the journal that leads there is gone or was never held. */
async function readKept(sql: Queryable, person: PersonId, model: Model): Promise<void> {
  const [row] = await sql<{ kept: string; through: number }[]>`
    select kept, through from filing
    where person = ${person} and epoch = ${model.epoch} and kept is not null and through > ${model.through}`;
  // Another request may have brought it further meanwhile.
  if (!row || row.through <= model.through) return;
  model.taught = Taught.from(JSON.parse(row.kept) as StoredTaught);
  model.through = row.through;
}

/** Brings a model to what is stored now. */
export async function catchUp(sql: Queryable, person: PersonId, model: Model): Promise<void> {
  await readKept(sql, person, model);
  const from = model.through;
  const rows = await sql<JournalRow[]>`
    select n, by, receipt from filing_journal where person = ${person} and n > ${from} order by n`;
  // It was kept between the two looks: what leads there is gone.
  const [state] = await sql<{ through: number }[]>`
    select through from filing where person = ${person} and epoch = ${model.epoch}`;
  if ((state?.through ?? 0) > from) return catchUp(sql, person, model);
  for (const { n, by, receipt } of rows) {
    if (n <= model.through) continue;
    if (by === 1) model.taught.relearn(JSON.parse(receipt) as Lesson);
    else model.taught.unlearn(JSON.parse(receipt) as Lesson);
    model.through = n;
  }
}

export const emptyModel = (epoch: string): Model => ({ epoch, taught: Taught.nothing(), through: 0 });

/** A process holds models of so many keys in all, the last used ones: some 400 MB. */
const MOST_KEYS = 400_000;
const held = new Map<string, Model>();

/**
 * Lets go what was used longest ago, until no more is held than may be; what was used last stays, whatever its size.
 * @param all the last used one last
 * @param most keys in all
 */
export function letGoOldest(all: Map<string, Pick<Model, "taught">>, most: number): void {
  let keys = 0;
  for (const { taught } of all.values()) keys += taught.size;
  for (const [epoch, { taught }] of all) {
    if (keys <= most || all.size === 1) return;
    keys -= taught.size;
    all.delete(epoch);
  }
}

/** What a person's filing has taught, as of now. Not to be written to. */
export async function modelOf(sql: Queryable, person: PersonId): Promise<Model | null> {
  const state = await lookAt(sql, person);
  if (!state) return null;
  const { epoch, last } = state;
  const model = held.get(epoch) ?? emptyModel(epoch);
  held.delete(epoch);
  held.set(epoch, model);
  if (model.through < last) await catchUp(sql, person, model);
  letGoOldest(held, MOST_KEYS);
  return model;
}
