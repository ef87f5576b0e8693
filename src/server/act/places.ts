import { and, eq, sql as raw } from "drizzle-orm";
import type { z } from "zod";
import type { folderPatch, labelPatch, markerPatch, newFolder, newLabel, newMarker } from "@/core/api";
import { pathProblemText, readPath } from "@/core/place";
import { folderTable, labelTable, markerTable } from "../db";
import { notFound, Refusal, type Context } from "./context";
import { readCounts, readDirectory, tellOfSettings } from "./directory";
import { followInMacros } from "./follow";

/** PostgreSQL's code for a value that must be unique and is not. */
const UNIQUE_VIOLATION = "23505";
const MOST_MARKERS = 8;

/** Runs a write whose unique names may clash, and says so in words. */
async function orTaken<T>(what: string, name: string, write: () => Promise<T>): Promise<T> {
  try {
    return await write();
  } catch (error) {
    const cause = (error as { cause?: { code?: string } }).cause ?? (error as { code?: string });
    if (cause.code !== UNIQUE_VIOLATION) throw error;
    throw new Refusal(409, "The name is taken", `There is a ${what} "${name}" already. Choose another name.`);
  }
}

function cleanPath(path: string): string {
  const read = readPath(path);
  if (!read.ok) throw new Refusal(422, "Not a name", pathProblemText[read.problem]);
  return read.path;
}

export async function listFolders(context: Context) {
  const [directory, counts] = await Promise.all([readDirectory(context), readCounts(context)]);
  return directory.folders.map((folder) => ({ ...folder, ...(counts.get(folder.id) ?? { total: 0, unread: 0 }) }));
}

export async function createFolder(context: Context, body: z.infer<typeof newFolder>) {
  const { db, person } = context;
  const path = cleanPath(body.path);
  const [row] = await orTaken("folder", path, () => db.orm.insert(folderTable).values({ person, path }).returning());
  await tellOfSettings(db.sql, context);
  return { id: row!.id, path, role: null, total: 0, unread: 0 };
}

export async function renameFolder(context: Context, id: number, body: z.infer<typeof folderPatch>) {
  const { db, person } = context;
  const path = cleanPath(body.path);
  const [old] = await db.orm
    .select()
    .from(folderTable)
    .where(and(eq(folderTable.person, person), eq(folderTable.id, id)));
  if (!old) throw notFound("folder", id);
  if (path.toLowerCase().startsWith(`${old.path.toLowerCase()}/`))
    throw new Refusal(422, "Not a place for it", `"${old.path}" cannot be put inside itself.`);
  await orTaken("folder", path, () =>
    db.orm
      .update(folderTable)
      .set({ path: raw`${path}::text || substr(${folderTable.path}, ${old.path.length + 1})` })
      .where(
        and(
          eq(folderTable.person, person),
          raw`(${folderTable.id} = ${id} or left(lower(${folderTable.path}), ${old.path.length + 1}) = lower(${`${old.path}/`}))`,
        ),
      ),
  );
  await followInMacros(context, { what: "folder", from: old.path, to: path });
  await tellOfSettings(db.sql, context);
  const [now] = (await listFolders(context)).filter((folder) => folder.id === id);
  return now;
}

export async function deleteFolder(context: Context, id: number): Promise<void> {
  const { db, person } = context;
  const folder = (await listFolders(context)).find((f) => f.id === id);
  if (!folder) throw notFound("folder", id);
  if (folder.role)
    throw new Refusal(409, "Still needed", `"${folder.path}" serves as ${folder.role}. It can be renamed.`);
  if (folder.total > 0)
    throw new Refusal(
      409,
      "Not empty",
      `"${folder.path}" holds ${folder.total} messages. Move them first, then delete it.`,
    );
  await db.orm.delete(folderTable).where(and(eq(folderTable.person, person), eq(folderTable.id, id)));
  await tellOfSettings(db.sql, context);
}

export async function createLabel(context: Context, body: z.infer<typeof newLabel>) {
  const { db, person } = context;
  const name = cleanPath(body.name);
  const [row] = await orTaken("label", name, () =>
    db.orm.insert(labelTable).values({ person, name, colour: body.colour }).returning(),
  );
  await tellOfSettings(db.sql, context);
  return { id: row!.id, name, colour: body.colour };
}

export async function changeLabel(context: Context, id: number, body: z.infer<typeof labelPatch>) {
  const { db, person } = context;
  const [old] = await db.orm
    .select()
    .from(labelTable)
    .where(and(eq(labelTable.person, person), eq(labelTable.id, id)));
  if (!old) throw notFound("label", id);
  const next = { name: body.name === undefined ? old.name : cleanPath(body.name), colour: body.colour ?? old.colour };
  await orTaken("label", next.name, () =>
    db.orm
      .update(labelTable)
      .set(next)
      .where(and(eq(labelTable.person, person), eq(labelTable.id, id))),
  );
  if (next.name !== old.name) await followInMacros(context, { what: "label", from: old.name, to: next.name });
  await tellOfSettings(db.sql, context);
  return { id, ...next };
}

export async function deleteLabel(context: Context, id: number): Promise<void> {
  const { db, person } = context;
  const [used] = await db.sql<{ n: number }[]>`
    select count(*)::int as n from message_state where person = ${person} and labels @> array[${id}]::int[]`;
  if (used && used.n > 0)
    throw new Refusal(
      409,
      "Still in use",
      `${used.n} messages have this label. Take it off them first, then delete it.`,
    );
  const gone = await db.orm
    .delete(labelTable)
    .where(and(eq(labelTable.person, person), eq(labelTable.id, id)))
    .returning();
  if (gone.length === 0) throw notFound("label", id);
  await tellOfSettings(db.sql, context);
}

export async function createMarker(context: Context, body: z.infer<typeof newMarker>) {
  const { db, person } = context;
  const { markers } = await readDirectory(context);
  const free = Array.from({ length: MOST_MARKERS }, (_, i) => i + 1).find((n) => !markers.some((m) => m.id === n));
  if (free === undefined)
    throw new Refusal(409, "No more markers", `There are ${MOST_MARKERS} markers already, which is all there can be.`);
  await orTaken("marker", body.letter, () =>
    db.orm.insert(markerTable).values({ person, id: free, position: markers.length, ...body }),
  );
  await tellOfSettings(db.sql, context);
  return { id: free, ...body };
}

export async function changeMarker(context: Context, id: number, body: z.infer<typeof markerPatch>) {
  const { db, person } = context;
  const old = (await readDirectory(context)).markers.find((marker) => marker.id === id);
  if (!old) throw notFound("marker", id);
  const next = { ...old, ...body };
  await orTaken("marker", next.letter, () =>
    db.orm
      .update(markerTable)
      .set({ letter: next.letter, colour: next.colour, meaning: next.meaning })
      .where(and(eq(markerTable.person, person), eq(markerTable.id, id))),
  );
  if (next.letter !== old.letter) await followInMacros(context, { what: "marker", from: old.letter, to: next.letter });
  await tellOfSettings(db.sql, context);
  return next;
}

export async function deleteMarker(context: Context, id: number): Promise<void> {
  const { db, person } = context;
  const [used] = await db.sql<{ n: number }[]>`
    select count(*)::int as n from message_state where person = ${person} and marker = ${id}`;
  if (used && used.n > 0)
    throw new Refusal(
      409,
      "Still in use",
      `${used.n} messages carry this marker. Clear it from them first, then delete it.`,
    );
  const gone = await db.orm
    .delete(markerTable)
    .where(and(eq(markerTable.person, person), eq(markerTable.id, id)))
    .returning();
  if (gone.length === 0) throw notFound("marker", id);
  await tellOfSettings(db.sql, context);
}
