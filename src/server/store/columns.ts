import type { MessageEdit, MessageState } from "@/core/change";
import { applyEdits } from "@/core/change";
import { rowOfState, stateOfRow, type StateRow } from "@/core/columns";
import { fold } from "@/core/narrow";

/** How a state lies in the columns of message_state: what a row holds, and its SQL type. */
export interface StateColumn {
  readonly name: string;
  readonly type: string;
  /** What of a state's row it holds; null for what is made from another column. */
  readonly field: keyof StateRow | null;
  readonly of: (row: StateRow) => number | string | null;
  /** Kinds of edit that write the column. */
  readonly kinds: readonly MessageEdit["kind"][];
}

type Kinds = StateColumn["kinds"];

const number = (field: "folder" | "bits" | "marker", type: string, kinds: Kinds): StateColumn => ({
  name: field,
  type,
  field,
  of: (row) => row[field],
  kinds,
});
const time = (
  name: string,
  field: "startMs" | "dueMs" | "deferMs" | "backMs" | "awaitMs" | "handMs",
  kinds: Kinds,
): StateColumn => ({
  name,
  type: "timestamptz",
  field,
  of: (row) => (Number.isNaN(row[field]) ? null : new Date(row[field]).toISOString()),
  kinds,
});
const text = (name: string, field: "flagNote" | "note", kinds: Kinds): StateColumn => ({
  name,
  type: "text",
  field,
  of: (row) => row[field] || null,
  kinds,
});

/** The one table of state columns: what runs read and write, and what the browser's index is made from. */
export const STATE_COLUMNS: readonly StateColumn[] = [
  number("folder", "int", ["folder"]),
  number("bits", "smallint", ["read", "pin", "owed", "flag"]),
  number("marker", "smallint", ["marker"]),
  { name: "labels", type: "int[]", field: "labels", of: (row) => `{${row.labels.join()}}`, kinds: ["label"] },
  time("flag_start", "startMs", ["flag"]),
  time("flag_due", "dueMs", ["flag"]),
  text("flag_note", "flagNote", ["flag"]),
  text("note", "note", ["note"]),
  { name: "note_key", type: "text", field: null, of: (row) => fold(row.note), kinds: ["note"] },
  time("defer_until", "deferMs", ["defer"]),
  time("back_since", "backMs", ["back"]),
  time("await_until", "awaitMs", ["await"]),
  time("hand_until", "handMs", ["hand"]),
];

/** Instants as whole milliseconds since 1970. */
export const inMs = (column: string): string => `(extract(epoch from ${column}) * 1000)::float8`;

/** What is selected to read the columns as fields of a state's row, from message_state under that name. */
export const stateFields = (table: string): { readonly field: keyof StateRow; readonly sql: string }[] =>
  STATE_COLUMNS.flatMap(({ name, type, field }) => {
    if (field === null) return [];
    return [{ field, sql: type === "timestamptz" ? inMs(`${table}.${name}`) : `${table}.${name}` }];
  });

/** A row as the database gives it, where nothing stands as null. */
export type ReadRow = { readonly [K in keyof StateRow]: StateRow[K] | null };

export function stateOfRead(row: ReadRow): MessageState {
  const orNone = (ms: number | null) => ms ?? NaN;
  return stateOfRow({
    folder: row.folder!,
    bits: row.bits!,
    marker: row.marker!,
    labels: row.labels!,
    startMs: orNone(row.startMs),
    dueMs: orNone(row.dueMs),
    deferMs: orNone(row.deferMs),
    backMs: orNone(row.backMs),
    awaitMs: orNone(row.awaitMs),
    handMs: orNone(row.handMs),
    flagNote: row.flagNote ?? "",
    note: row.note ?? "",
  });
}

/** The columns that some edit of the lists writes. */
export function columnsOf(lists: Iterable<readonly MessageEdit[]>): readonly StateColumn[] {
  const kinds = new Set<MessageEdit["kind"]>();
  for (const edits of new Set(lists)) for (const edit of edits) kinds.add(edit.kind);
  return STATE_COLUMNS.filter((column) => column.kinds.some((kind) => kinds.has(kind)));
}

/** What all columns hold for a state, in their order. */
export function valuesOf(state: MessageState): (number | string | null)[] {
  const row = rowOfState(state);
  return STATE_COLUMNS.map((column) => column.of(row));
}

/** For a state and what is to be done to it: what the columns hold and are to hold, as one JSON array. */
export function beforeAndAfter(
  columns: readonly StateColumn[],
  state: MessageState,
  edits: readonly MessageEdit[],
): (number | string | null)[] {
  const [before, after] = [rowOfState(state), rowOfState(applyEdits(state, edits))];
  return columns.flatMap((column) => [column.of(before), column.of(after)]);
}
