import type { MessageId, PersonId, RunId } from "@/core/id";
import type { Queryable, Transaction } from "../db";
import { listOf } from "./list";

/**
 * Notes for which messages of a pass a run decided. Call it where the run is written: a decision and its place in
 * the pass are there together, or neither is.
 */
export async function noteDeeds(
  tx: Transaction,
  person: PersonId,
  { id, ms }: { readonly id: string; readonly ms: number },
  run: RunId,
  macro: string,
  messages: Iterable<MessageId>,
): Promise<void> {
  await tx`
    insert into pass_deed (person, pass, message, run, macro, ms)
    select p.person, p.id, m, ${run}, ${macro}, ${ms} from pass p, unnest(${listOf([...messages])}::text::bigint[]) m
    where p.person = ${person} and p.id = ${id} and m = any(p.queue) on conflict do nothing`;
}

export interface DeedRow {
  readonly message: number;
  readonly run: RunId;
  readonly macro: string;
  readonly ms: number;
  /** Milliseconds since 1970. */
  readonly at: number;
}

/** What was decided in a pass, and not taken back whole, as it came. */
export const readDeeds = (sql: Queryable, person: PersonId, pass: string): Promise<DeedRow[]> =>
  sql<DeedRow[]>`
    select d.message, d.run, d.macro, d.ms, (extract(epoch from d.at) * 1000)::float8 as at from pass_deed d
      left join ledger l on l.person = d.person and l.run = d.run
    where d.person = ${person} and d.pass = ${pass} and l.state is distinct from 'undone' order by d.at, d.message`;
