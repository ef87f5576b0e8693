import { textAt, type ColumnCursor, type Columns } from "@/core/columns";
import { guessFrom, type Filed } from "@/core/filing";
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

/** The folder guess, from where mail is now. @param own folders that mail is filed into */
export function guessOf(columns: Columns, own: ReadonlySet<number>): (facts: Facts) => FolderId | null {
  const counts = new Map<string, Filed & { messages: number }>();
  for (let row = 0; row < columns.count; row++) {
    const folder = columns.folder[row]! as FolderId;
    if (!own.has(folder) || columns.traits[row]! & TRAIT.mine) continue;
    const address = textAt(columns, "fromAddress", row);
    const key = `${address} ${folder}`;
    const entry = counts.get(key);
    counts.set(key, { address, folder, messages: (entry?.messages ?? 0) + 1 });
  }
  const guess = guessFrom(counts.values());
  return (facts) => guess(facts.fromAddress);
}
