import { and, eq, sql as raw } from "drizzle-orm";
import type { z } from "zod";
import type { folderPatch, newFolder } from "@/core/api";
import { folderTable } from "../db";
import { notFound, Refusal, type Context } from "./context";
import { readCounts, readDirectory, tellOfSettings } from "./directory";
import { followRenaming } from "./follow";
import { cleanPath, orTaken } from "./taken";

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
  const old = (await readDirectory(context)).folders.find((folder) => folder.id === id);
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
          eq(folderTable.removed, false),
          raw`(${folderTable.id} = ${id} or left(lower(${folderTable.path}), ${old.path.length + 1}) = lower(${`${old.path}/`}))`,
        ),
      ),
  );
  await followRenaming(context, { what: "folder", from: old.path, to: path });
  await tellOfSettings(db.sql, context);
  const [now] = (await listFolders(context)).filter((folder) => folder.id === id);
  return now;
}
