import { and, asc, eq } from "drizzle-orm";
import { folderId, labelId, markerId } from "@/core/id";
import type { Colour, Directory, Role } from "@/core/place";
import { folderTable, labelTable, markerTable, type Queryable } from "../db";
import type { Context } from "./context";

/** The person's folders, labels and markers. */
export async function readDirectory({ db, person }: Context): Promise<Directory> {
  const [folders, labels, markers] = await Promise.all([
    db.orm
      .select()
      .from(folderTable)
      .where(and(eq(folderTable.person, person), eq(folderTable.removed, false)))
      .orderBy(asc(folderTable.path)),
    db.orm
      .select()
      .from(labelTable)
      .where(and(eq(labelTable.person, person), eq(labelTable.removed, false)))
      .orderBy(asc(labelTable.name)),
    db.orm.select().from(markerTable).where(eq(markerTable.person, person)).orderBy(asc(markerTable.position)),
  ]);
  return {
    folders: folders.map(({ id, path, role }) => ({ id: folderId(id), path, role: role as Role | null })),
    labels: labels.map(({ id, name, colour }) => ({ id: labelId(id), name, colour: colour as Colour })),
    markers: markers.map(({ id, letter, colour, meaning, used }) => ({
      id: markerId(id),
      letter,
      colour: colour as Colour,
      meaning,
      used,
    })),
  };
}

/** Total and unread by folder id. */
export async function readCounts({ db, person }: Context): Promise<Map<number, { total: number; unread: number }>> {
  const rows = await db.sql<{ folder: number; total: number; unread: number }[]>`
    select folder, total, unread from folder_count where person = ${person}`;
  return new Map(rows.map(({ folder, ...counts }) => [folder, counts]));
}

/** Tells every window that folders, labels, markers, macros or decks are not what they were. */
export async function tellOfSettings(sql: Queryable, { person }: Context): Promise<void> {
  await sql`select pg_notify('tachyne', ${`${person} settings`})`;
}
