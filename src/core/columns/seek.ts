import { ROW_BY_ROW, type Seekers } from "../narrow";
import type { ColumnCursor } from "./cursor";
import { columnOf, foldedOf, hitsIn } from "./folded";
import type { Columns } from "./format";

/** The ids of messages that hold a needle in their words; undefined while that is not known. */
export type KnownWords = (needle: string) => { has(id: number): boolean } | undefined;

/** Looks into the texts of columns, a whole table at a time. For rows of one cursor over these columns. */
export function columnSeekers(columns: Columns, cursor: ColumnCursor, words: KnownWords): Seekers {
  return {
    seek: (field, needle, whole) => {
      if (field === "note")
        return whole ? (row) => row.text("note") === needle : (row) => row.text("note").includes(needle);
      const name = columnOf(field);
      const hits = hitsIn(foldedOf(columns, name), needle, whole);
      const { index } = columns.texts[name];
      return () => hits[index[cursor.row]!] === 1;
    },
    words: (needle) => {
      const found = words(needle);
      return found ? () => found.has(columns.id[cursor.row]!) : () => false;
    },
    tasks: ROW_BY_ROW.tasks,
  };
}
