import type { z } from "zod";
import type { settingsShape } from "@/core/api";
import type { FolderId, PersonId } from "@/core/id";
import { folderFor, type Directory } from "@/core/place";
import { USUAL_WORK_HOURS } from "@/core/when";
import type { Queryable } from "../db";

export type Settings = z.infer<typeof settingsShape>;

/** What holds where the person has not said. */
const USUAL: Settings = {
  ledgerDays: null,
  trashDays: 30,
  junkDays: 30,
  frame: {},
  order: "newest",
  pinnedFirst: false,
  readAfter: 2,
  lookSeconds: null,
  holdSeconds: 10,
  mostPeople: 10,
  afterwards: null,
  leastSure: 60,
  practice: null,
  workHours: [...USUAL_WORK_HOURS],
};

/** What else is kept beside the settings is no setting. */
const known = (stored: object): Partial<Settings> =>
  Object.fromEntries(Object.entries(stored).filter(([name]) => name in USUAL));

export async function readSettings(sql: Queryable, person: PersonId): Promise<Settings> {
  const [row] = await sql<{ settings: Partial<Settings> }[]>`select settings from person where id = ${person}`;
  return settingsOf(row?.settings ?? {});
}

/** @param stored what the person has said */
export const settingsOf = (stored: Partial<Settings>): Settings => ({ ...USUAL, ...known(stored) });

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
