import type { z } from "zod";
import type { folderPatch, newFolder } from "@/core/api";
import type { PersonId } from "@/core/id";
import { inTurn, notFound, readDirectory, Refusal, settleNames } from "../run";
import type { Transaction } from "../db";
import { tell } from "../store";
import type { Context } from "./context";
import { readCounts } from "./counts";
import { cleanPath, orTaken } from "./taken";
import { setGone } from "./unmake";

export async function listFolders({ db, person }: Context) {
  const [directory, counts] = await Promise.all([readDirectory(db.sql, person), readCounts(db.sql, person)]);
  return directory.folders.map((folder) => ({ ...folder, ...(counts.get(folder.id) ?? { total: 0, unread: 0 }) }));
}

/** Makes a folder in the person's turn. What named it before it was there means it from now on. */
export async function makeFolder(tx: Transaction, person: PersonId, path: string): Promise<number> {
  const [row] = await orTaken(
    "folder",
    path,
    () => tx<{ id: number }[]>`insert into folder (person, path) values (${person}, ${path}) returning id`,
  );
  await settleNames(tx, person);
  await tell(tx, person, "settings");
  return row!.id;
}

export async function createFolder({ db, person }: Context, body: z.infer<typeof newFolder>) {
  const path = cleanPath(body.path);
  const id = await inTurn(db, person, (tx) => makeFolder(tx, person, path));
  return { id, path, role: null, total: 0, unread: 0 };
}

/** Renames a folder, with those below it; one that has just been made is taken back, or made again. */
export async function changeFolder(context: Context, id: number, body: z.infer<typeof folderPatch>) {
  const find = async () => (await listFolders(context)).find((folder) => folder.id === id);
  const before = body.deleted === true ? await find() : undefined;
  if (body.deleted !== undefined) await setGone(context, "folder", id, body.deleted);
  if (before) return before;
  if (body.path !== undefined) await rename(context, id, cleanPath(body.path));
  return find();
}

async function rename({ db, person }: Context, id: number, path: string): Promise<void> {
  await inTurn(db, person, async (tx) => {
    const old = (await readDirectory(tx, person)).folders.find((folder) => folder.id === id);
    if (!old) throw notFound("folder", id);
    if (path.toLowerCase().startsWith(`${old.path.toLowerCase()}/`))
      throw new Refusal(422, "Not a place for it", `"${old.path}" cannot be put inside itself.`);
    await settleNames(tx, person);
    // Those below it go with it.
    await orTaken(
      "folder",
      path,
      () => tx`
        update folder set path = ${path}::text || substr(path, ${old.path.length + 1})
        where person = ${person} and not removed
          and (id = ${id} or left(lower(path), ${old.path.length + 1}) = lower(${`${old.path}/`}))`,
    );
    await tell(tx, person, "settings");
  });
}
