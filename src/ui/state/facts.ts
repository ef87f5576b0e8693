import { textAt, type ColumnCursor, type Columns } from "@/core/columns";
import { guessFrom, rankFrom, type Filed } from "@/core/filing";
import type { FolderId } from "@/core/id";
import type { Facts } from "@/core/macro";
import { TRAIT } from "@/core/narrow";

/**
 * What the columns know of the message in a row. Its words are the server's to read.
 * @param cursor over these columns; shared, since it keeps what it has folded
 */
export function factsAt(columns: Columns, cursor: ColumnCursor, row: number): Facts {
  return {
    fromName: textAt(columns, "fromName", row),
    fromAddress: textAt(columns, "fromAddress", row),
    subject: textAt(columns, "subject", row),
    list: textAt(columns, "list", row),
    dateMs: columns.dateMs[row]!,
    size: columns.size[row]!,
    traits: columns.traits[row]!,
    text: (field) => {
      cursor.row = row;
      return cursor.text(field);
    },
    body: null,
  };
}

/** More folders than a person will ever have: sender and folder as one number. */
const MOST_FOLDERS = 2 ** 20;

/** How many messages of each sender are in each folder. @param own folders that mail is filed into */
function filedIn(columns: Columns, own: ReadonlySet<number>): Filed[] {
  const { index } = columns.texts.sender;
  const counts = new Map<number, { row: number; messages: number }>();
  for (let row = 0; row < columns.count; row++) {
    const folder = columns.folder[row]!;
    if (!own.has(folder) || columns.traits[row]! & TRAIT.mine) continue;
    const key = index[row]! * MOST_FOLDERS + folder;
    const count = counts.get(key);
    if (count) count.messages++;
    else counts.set(key, { row, messages: 1 });
  }
  return [...counts.values()].map(({ row, messages }) => ({
    address: textAt(columns, "fromAddress", row),
    folder: columns.folder[row]! as FolderId,
    messages,
  }));
}

/** The folder guess, from where mail is now. @param own folders that mail is filed into */
export function guessOf(columns: Columns, own: ReadonlySet<number>): (facts: Facts) => FolderId | null {
  const guess = guessFrom(filedIn(columns, own));
  return (facts) => guess(facts.fromAddress);
}

/** Folders that mail of a sender may be meant for, the likeliest first. */
export const likelyFolders = (columns: Columns, own: ReadonlySet<number>, address: string): FolderId[] =>
  rankFrom(filedIn(columns, own))(address);
