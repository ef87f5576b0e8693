import { textAt, type ColumnCursor, type Columns } from "@/core/columns";
import type { Facts } from "@/core/macro";

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
    account: columns.account[row]!,
    dateMs: columns.dateMs[row]!,
    size: columns.size[row]!,
    traits: columns.traits[row]!,
    text: (field) => {
      cursor.row = row;
      return cursor.text(field);
    },
    body: null,
    tasks: cursor.openTasks && (cursor.openTasks.get(columns.id[row]!) ?? []),
  };
}
