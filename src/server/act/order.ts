import type { PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { listOf } from "../store";

/** Puts one of a person's things at that place of their order; the others keep theirs. */
export async function placeAt(
  tx: Transaction,
  table: "batch" | "macro" | "rule",
  person: PersonId,
  id: number,
  position: number,
): Promise<void> {
  const alive = table === "batch" ? tx`true` : tx`deleted_at is null`;
  const rows = await tx<{ id: number }[]>`
    select id from ${tx(table)} where person = ${person} and ${alive} order by position, id`;
  const others = rows.map((row) => row.id).filter((other) => other !== id);
  others.splice(position, 0, id);
  await tx`
    update ${tx(table)} t set position = o.n from unnest(${listOf(others)}::text::int[]) with ordinality as o(id, n)
    where t.person = ${person} and t.id = o.id`;
}
