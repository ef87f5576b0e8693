import { randomUUID } from "node:crypto";
import { folderFor, type Directory } from "@/core/place";
import type { Context } from "./context";
import { readDirectory } from "./directory";
import { runMacro } from "./runs";
import { readSettings } from "./settings";

/** Trash and junk keep mail for a while, counted from when it came into them, and then let it go. */

const DAY_MS = 86_400_000;
/** Messages let go in one run: each run is one transaction. */
const AT_ONCE = 5000;

async function keepingDays(context: Context, directory: Directory): Promise<Map<number, number>> {
  const { trashDays, junkDays } = await readSettings(context);
  const days = new Map<number, number>();
  for (const [role, kept] of [
    ["trash", trashDays],
    ["junk", junkDays],
  ] as const) {
    const folder = folderFor(directory, role);
    if (folder && kept !== null) days.set(folder.id, kept);
  }
  return days;
}

/** When a message is let go, ISO 8601; null for one that stays. */
export async function keptUntil(context: Context, directory: Directory, id: number): Promise<string | null> {
  const { db, person } = context;
  const days = await keepingDays(context, directory);
  if (days.size === 0) return null;
  const [row] = await db.sql<{ folder: number; since: number }[]>`
    select folder, (extract(epoch from folder_since) * 1000)::float8 as since
    from message_state where person = ${person} and message = ${id}`;
  const kept = row && days.get(row.folder);
  return row && kept ? new Date(row.since + kept * DAY_MS).toISOString() : null;
}

/** Deletes for good what trash and junk have kept long enough. @returns how many messages */
export async function letGo(context: Context, now: Date): Promise<number> {
  const { db, person } = context;
  const directory = await readDirectory(context);
  let count = 0;
  for (const [folder, days] of await keepingDays(context, directory)) {
    const before = new Date(now.getTime() - days * DAY_MS);
    for (;;) {
      const rows = await db.sql<{ message: number }[]>`
        select message from message_state where person = ${person} and folder = ${folder}
          and folder_since < ${before.toISOString()}::timestamptz order by message limit ${AT_ONCE}`;
      if (rows.length === 0) break;
      const name = directory.folders.find((f) => f.id === folder)?.path ?? "trash";
      const { changed } = await runMacro(context, {
        id: randomUUID(),
        macro: { name: `${name}: kept for ${days} days`.slice(0, 80), steps: [{ do: "delete for good" }] },
        target: { ids: rows.map((row) => row.message) },
      });
      count += changed;
      // What cannot be deleted now is tried again with the next look, not at once and for ever.
      if (changed === 0) break;
    }
  }
  return count;
}
