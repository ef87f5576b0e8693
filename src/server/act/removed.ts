import type { Change } from "@/core/change";
import type { RunId } from "@/core/id";
import type { Transaction } from "../db";
import { listOf } from "../store";
import type { Context } from "./context";
import { tellOfSettings } from "./directory";

/** Folders and labels that a change puts messages into or on. */
function namedIn(change: Change): { folder: number[]; label: number[] } {
  const folder = new Set<number>();
  const label = new Set<number>();
  for (const edits of new Set(change.values()))
    for (const edit of edits) {
      if (edit.kind === "folder") folder.add(edit.after);
      if (edit.kind === "label" && edit.after) label.add(edit.label);
    }
  return { folder: [...folder], label: [...label] };
}

/**
 * Folders and labels that a run removed come back when it is taken back, and go again when it is done again;
 * and no message is ever put back into a folder that nobody sees. Where the name has been given to another one
 * meanwhile, the one that comes back says so in its own.
 * @param done what was just written
 */
export async function restoreRemoved(
  tx: Transaction,
  context: Context,
  kind: "undo" | "redo",
  run: RunId,
  done: Change,
): Promise<void> {
  const { person } = context;
  const named = namedIn(done);
  let changed = 0;
  for (const [table, column] of [
    ["folder", "path"],
    ["label", "name"],
  ] as const) {
    if (kind === "redo")
      changed += (
        await tx.unsafe(`update ${table} set removed = true where person = $1 and removed_by = $2`, [person, run])
      ).count;
    const { count } = await tx.unsafe(
      `update ${table} t set removed = false, ${column} = case when exists (
         select 1 from ${table} o where o.person = t.person and not o.removed and lower(o.${column}) = lower(t.${column}))
         then t.${column} || ' (brought back)' else t.${column} end
       where t.person = $1 and t.removed and (t.removed_by = $2 and $4 or t.id = any($3::text::int[]))`,
      [person, run, listOf(named[table]), kind === "undo"] as never[],
    );
    changed += count;
  }
  if (changed > 0) await tellOfSettings(tx, context);
}
