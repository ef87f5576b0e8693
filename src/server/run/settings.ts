import type { z } from "zod";
import type { settingsShape } from "@/core/api";
import type { FolderId, PersonId } from "@/core/id";
import { folderFor, type Directory } from "@/core/place";
import type { Queryable } from "../db";

export type Settings = z.infer<typeof settingsShape>;

/** How long trash and junk keep a message where the person has not said. */
const KEPT_DAYS = 30;

export async function readSettings(sql: Queryable, person: PersonId): Promise<Settings> {
  const [row] = await sql<{ settings: Partial<Settings> }[]>`select settings from person where id = ${person}`;
  const { ledgerDays = null, trashDays = KEPT_DAYS, junkDays = KEPT_DAYS } = row?.settings ?? {};
  return { ledgerDays, trashDays, junkDays };
}

/** How many days the folders that let mail go keep it, by folder; those that keep all are missing. */
export async function keepingDays(
  sql: Queryable,
  person: PersonId,
  directory: Directory,
): Promise<ReadonlyMap<FolderId, number>> {
  const { trashDays, junkDays } = await readSettings(sql, person);
  const days = new Map<FolderId, number>();
  for (const [role, kept] of [
    ["trash", trashDays],
    ["junk", junkDays],
  ] as const) {
    const folder = folderFor(directory, role);
    if (folder && kept !== null) days.set(folder.id, kept);
  }
  return days;
}
