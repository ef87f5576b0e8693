import type { PersonId } from "@/core/id";
import type { Queryable } from "../db";

/** Total and unread by folder id. */
export async function readCounts(
  sql: Queryable,
  person: PersonId,
): Promise<Map<number, { readonly total: number; readonly unread: number }>> {
  const rows = await sql<{ folder: number; total: number; unread: number }[]>`
    select folder, total, unread from folder_count where person = ${person}`;
  return new Map(rows.map(({ folder, ...counts }) => [folder, counts]));
}
