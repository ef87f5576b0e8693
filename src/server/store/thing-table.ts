import type { ThingEdit, ThingKind } from "@/core/change";
import type { PersonId } from "@/core/id";
import type { Queryable, Transaction } from "../db";

export type EditOf<K extends ThingKind> = Extract<ThingEdit, { kind: K }>;

/** How a kind of thing is stored. */
export interface ThingTable<K extends ThingKind> {
  /** What is stored now under those keys; those that are not there are missing. */
  readonly read: (
    sql: Queryable,
    person: PersonId,
    keys: readonly string[],
  ) => Promise<Iterable<readonly [string, NonNullable<EditOf<K>["after"]>]>>;
  /** Writes what comes after. @returns keys of those that could not be written, as they are in use */
  readonly write: (tx: Transaction, person: PersonId, edits: readonly EditOf<K>[]) => Promise<readonly string[]>;
}
