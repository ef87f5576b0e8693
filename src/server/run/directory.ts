import { folderId, labelId, markerId, type PersonId } from "@/core/id";
import type { IdOf, NameOf } from "@/core/narrow";
import {
  accountName,
  accountNamed,
  folderNamed,
  labelNamed,
  markerNamed,
  type Colour,
  type Directory,
  type Role,
} from "@/core/place";
import type { Queryable } from "../db";

/** What names are read from. */
export interface NameRows {
  readonly folders: readonly { id: number; path: string; role: Role | null; removed: boolean }[];
  readonly labels: readonly { id: number; name: string; colour: Colour; removed: boolean }[];
  readonly markers: readonly { id: number; letter: string; colour: Colour; meaning: string; used: boolean }[];
  readonly macros: readonly { id: number; name: string }[];
  readonly accounts: readonly { id: number; name: string; address: string }[];
}

/** All of it in one row, which may have other columns beside. @param ofMacros what else is read of macros */
export const nameColumns = (sql: Queryable, person: PersonId, ofMacros = sql``) => sql`
    (select coalesce(jsonb_agg(jsonb_build_object('id', id, 'path', path, 'role', role, 'removed', removed) order by path collate "C"), '[]')
      from folder where person = ${person}) as folders,
    (select coalesce(jsonb_agg(jsonb_build_object('id', id, 'name', name, 'colour', colour, 'removed', removed) order by name collate "C"), '[]')
      from label where person = ${person}) as labels,
    (select coalesce(jsonb_agg(jsonb_build_object('id', id, 'letter', letter, 'colour', colour, 'meaning', meaning, 'used', used)
      order by position, id), '[]') from marker where person = ${person}) as markers,
    (select coalesce(jsonb_agg(jsonb_build_object('id', id, 'name', name ${ofMacros}) order by position, id), '[]')
      from macro where person = ${person} and deleted_at is null) as macros,
    (select coalesce(jsonb_agg(jsonb_build_object('id', id, 'name', name, 'address', address) order by id), '[]')
      from account where person = ${person}) as accounts`;

async function readRows(sql: Queryable, person: PersonId): Promise<NameRows> {
  const [row] = await sql<NameRows[]>`select ${nameColumns(sql, person)}`;
  return row!;
}

const directoryOf = (rows: NameRows): Directory => ({
  folders: rows.folders
    .filter((folder) => !folder.removed)
    .map(({ id, path, role }) => ({ id: folderId(id), path, role })),
  labels: rows.labels
    .filter((label) => !label.removed)
    .map(({ id, name, colour }) => ({ id: labelId(id), name, colour })),
  markers: rows.markers.map((marker) => ({ ...marker, id: markerId(marker.id) })),
  accounts: rows.accounts,
});

/** The person's folders, labels and markers. */
export const readDirectory = async (sql: Queryable, person: PersonId): Promise<Directory> =>
  directoryOf(await readRows(sql, person));

/** The same, with what is needed to keep names by id and to show them again. */
export interface Names {
  readonly directory: Directory;
  readonly idOf: IdOf;
  /** Also of what was removed: its last name. */
  readonly nameOf: NameOf;
}

export const readNames = async (sql: Queryable, person: PersonId): Promise<Names> =>
  namesOf(await readRows(sql, person));

export function namesOf(rows: NameRows): Names {
  const directory = directoryOf(rows);
  const macros = new Map(rows.macros.map(({ id, name }) => [name.toLowerCase(), id]));
  const names = {
    folder: new Map(rows.folders.map(({ id, path }) => [id, path])),
    label: new Map(rows.labels.map(({ id, name }) => [id, name])),
    marker: new Map(rows.markers.map(({ id, letter }) => [id, letter])),
    macro: new Map(rows.macros.map(({ id, name }) => [id, name])),
    account: new Map(rows.accounts.map((account) => [account.id, accountName(account)])),
  };
  const idOf: IdOf = (kind, name) => {
    switch (kind) {
      case "folder":
        return folderNamed(directory, name)?.id ?? null;
      case "label":
        return labelNamed(directory, name)?.id ?? null;
      case "marker":
        return markerNamed(directory, name)?.id ?? null;
      case "account":
        return accountNamed(directory, name)?.id ?? null;
      case "macro":
        return macros.get(name.trim().toLowerCase()) ?? null;
    }
  };
  return { directory, idOf, nameOf: (kind, id) => names[kind].get(id) ?? null };
}
