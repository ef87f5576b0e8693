import type { PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { Refusal } from "../run";
import { isTaken } from "./taken";

/** What is deleted by hand leaves its table, and can be brought back as it was, under its own number. */
export type Kind = "batch" | "contact_group" | "identity" | "marker" | "template";

const KEPT_FOR = "30 days";

/** @returns whether it was there */
export async function takeOut(tx: Transaction, kind: Kind, person: PersonId, id: number): Promise<boolean> {
  await tx`delete from taken_out where person = ${person} and at < now() - ${KEPT_FOR}::interval`;
  const gone = await tx`
    with gone as (delete from ${tx(kind)} where person = ${person} and id = ${id} returning *)
    insert into taken_out (person, kind, id, row) select person, ${kind}, id, to_jsonb(gone) from gone
    on conflict (person, kind, id) do update set row = excluded.row, at = excluded.at`;
  return gone.count > 0;
}

/**
 * Of what was not taken out, or is there again, nothing is changed.
 * @throws Refusal where its name or number belongs to another by now
 */
export async function bringBack(tx: Transaction, kind: Kind, person: PersonId, id: number): Promise<void> {
  try {
    await tx`
      with back as (delete from taken_out where person = ${person} and kind = ${kind} and id = ${id} returning row)
      insert into ${tx(kind)} select (jsonb_populate_record(null::${tx(kind)}, row)).* from back`;
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw new Refusal(
      409,
      "Its name is taken",
      "Another one has taken its name or its place since. Rename or remove that one, then bring it back.",
    );
  }
}

/** The numbers of those that can be brought back, the one that was taken out last coming last. */
export async function takenOut(tx: Transaction, kind: Kind, person: PersonId): Promise<number[]> {
  const rows = await tx<{ id: number }[]>`
    select id from taken_out where person = ${person} and kind = ${kind} order by at, id`;
  return rows.map(({ id }) => id);
}
