import { folderId } from "@/core/id";
import type { Directory } from "@/core/place";
import { keepingDays } from "../run";
import type { Context } from "./context";

const DAY_MS = 86_400_000;

/** When trash or junk lets a message go, ISO 8601; null for one that stays. */
export async function readKeptUntil({ db, person }: Context, directory: Directory, id: number): Promise<string | null> {
  const days = await keepingDays(db.sql, person, directory);
  if (days.size === 0) return null;
  const [row] = await db.sql<{ folder: number; since: number }[]>`
    select folder, (extract(epoch from folder_since) * 1000)::float8 as since
    from message_state where person = ${person} and message = ${id}`;
  const kept = row && days.get(folderId(row.folder));
  return row && kept ? new Date(row.since + kept * DAY_MS).toISOString() : null;
}
