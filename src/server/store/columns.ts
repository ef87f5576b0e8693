import type { CellEdit, MessageState } from "@/core/change";
import { applyEdits } from "@/core/change";
import { STATE_BIT } from "@/core/columns";
import { fold } from "@/core/narrow";

/** How a state lies in the columns of message_state: what a row holds, and its SQL type. */
export interface StateColumn {
  readonly name: string;
  readonly type: string;
  readonly of: (state: MessageState) => number | string | null;
  /** Kinds of edit that write the column. */
  readonly kinds: readonly CellEdit["kind"][];
}

const bitsOf = (state: MessageState): number =>
  (state.read ? STATE_BIT.read : 0) |
  (state.pin ? STATE_BIT.pin : 0) |
  (state.owed ? STATE_BIT.owed : 0) |
  (state.flag ? STATE_BIT.flagged : 0);

const labelsLiteral = (state: MessageState): string => `{${state.labels.join()}}`;

export const STATE_COLUMNS: readonly StateColumn[] = [
  { name: "folder", type: "int", of: (s) => s.folder, kinds: ["folder"] },
  { name: "bits", type: "smallint", of: bitsOf, kinds: ["read", "pin", "owed", "flag"] },
  { name: "marker", type: "smallint", of: (s) => s.marker ?? 0, kinds: ["marker"] },
  { name: "labels", type: "int[]", of: labelsLiteral, kinds: ["label"] },
  { name: "flag_start", type: "timestamptz", of: (s) => s.flag?.start ?? null, kinds: ["flag"] },
  { name: "flag_due", type: "timestamptz", of: (s) => s.flag?.due ?? null, kinds: ["flag"] },
  { name: "flag_note", type: "text", of: (s) => s.flag?.note ?? null, kinds: ["flag"] },
  { name: "note", type: "text", of: (s) => s.note, kinds: ["note"] },
  { name: "note_key", type: "text", of: (s) => fold(s.note ?? ""), kinds: ["note"] },
  { name: "defer_until", type: "timestamptz", of: (s) => s.defer, kinds: ["defer"] },
  { name: "await_until", type: "timestamptz", of: (s) => s.await, kinds: ["await"] },
];

/** The columns that some edit of the lists writes. */
export function columnsOf(lists: Iterable<readonly CellEdit[]>): readonly StateColumn[] {
  const kinds = new Set<CellEdit["kind"]>();
  for (const edits of new Set(lists)) for (const edit of edits) kinds.add(edit.kind);
  return STATE_COLUMNS.filter((column) => column.kinds.some((kind) => kinds.has(kind)));
}

/** For a state and what is to be done to it: what the columns hold and are to hold, as one JSON array. */
export function beforeAndAfter(
  columns: readonly StateColumn[],
  state: MessageState,
  edits: readonly CellEdit[],
): (number | string | null)[] {
  const after = applyEdits(state, edits);
  return columns.flatMap((column) => [column.of(state), column.of(after)]);
}
