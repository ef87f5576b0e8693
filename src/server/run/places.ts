import { folderId, type FolderId, type PersonId } from "@/core/id";
import { folderNamed, readPath } from "@/core/place";
import type { Transaction } from "../db";
import { tell } from "../store";
import { readDirectory } from "./directory";
import { settleNames } from "./macros";

/** Places that mail from elsewhere brings along. */

/** A name as places may have it, made of any. */
export function placeName(place: string): string {
  const read = readPath(place);
  if (read.ok) return read.path;
  const plain = readPath(
    place
      .split("/")
      .map((part) =>
        part
          .replace(/[\p{Cc}]/gu, " ")
          .trim()
          .slice(0, 60),
      )
      .filter(Boolean)
      .slice(0, 8)
      .join("/"),
  );
  return plain.ok ? plain.path : "Mail";
}

/** Makes a folder of a name that no other has. */
export async function makePlace(tx: Transaction, person: PersonId, path: string): Promise<FolderId> {
  const [row] = await tx<{ id: number }[]>`insert into folder (person, path) values (${person}, ${path}) returning id`;
  await settleNames(tx, person);
  await tell(tx, person, "settings");
  return folderId(row!.id);
}

/** The folder of a name, as it is or as it can be; made where there is none. */
export async function placeFor(tx: Transaction, person: PersonId, name: string): Promise<FolderId> {
  const path = placeName(name);
  return folderNamed(await readDirectory(tx, person), path)?.id ?? makePlace(tx, person, path);
}
