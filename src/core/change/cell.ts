import type { FolderId, LabelId, MarkerId, MessageId } from "../id";

/** Dates are ISO 8601 in UTC ("2026-11-24T09:00:00.000Z"), so that equal dates are equal strings. */
export interface Flag {
  readonly start: string | null;
  readonly due: string | null;
  readonly note: string | null;
}

/** Everything about a message that a run may change. Labels are sorted by id and hold no id twice. */
export interface MessageState {
  readonly folder: FolderId;
  readonly read: boolean;
  readonly flag: Flag | null;
  readonly pin: boolean;
  readonly marker: MarkerId | null;
  readonly labels: readonly LabelId[];
  readonly note: string | null;
  /** When the message comes back from being deferred. */
  readonly defer: string | null;
  /** Since when it is back from being deferred, until something else is decided about it. */
  readonly back: string | null;
  /** Until when an answer is awaited. */
  readonly await: string | null;
  /** Until when the pin keeps it at hand; null for a pin that stays. */
  readonly hand: string | null;
  readonly owed: boolean;
}

/** A message that exists because it was copied: from which one, and how it was when it was made. */
export interface Existence {
  readonly source: MessageId;
  readonly state: MessageState;
}

type Plain = Omit<MessageState, "labels">;
type PlainEdit = {
  [K in keyof Plain]: { readonly kind: K; readonly before: Plain[K]; readonly after: Plain[K] };
}[keyof Plain];

/** An edit of what a message's state holds. */
export type StateEdit =
  | PlainEdit
  /** A label is one boolean cell each, so that two people adding different labels never conflict. */
  | { readonly kind: "label"; readonly label: LabelId; readonly before: boolean; readonly after: boolean };

/** One write to one cell of a message not named here, with both ends: its own undo record. */
export type MessageEdit =
  | StateEdit
  | { readonly kind: "exists"; readonly before: Existence | null; readonly after: Existence | null }
  /** The end of a message, deleted for good: nothing brings it back, so nothing takes this edit back. */
  | { readonly kind: "gone"; readonly before: boolean; readonly after: boolean };

export type Edit = MessageEdit & { readonly message: MessageId };

/** Which cell an edit writes: "folder", "label:7". */
export type CellKey = string;

export const PLAIN_CELLS = [
  "folder",
  "read",
  "flag",
  "pin",
  "marker",
  "note",
  "defer",
  "back",
  "await",
  "hand",
  "owed",
] as const satisfies readonly (keyof Plain)[];

export const cellOf = (edit: MessageEdit): CellKey => (edit.kind === "label" ? `label:${edit.label}` : edit.kind);

const sameFlag = (a: Flag | null, b: Flag | null): boolean =>
  a === b || (a !== null && b !== null && a.start === b.start && a.due === b.due && a.note === b.note);

const sameLabels = (a: readonly LabelId[], b: readonly LabelId[]): boolean =>
  a === b || (a.length === b.length && a.every((id, i) => id === b[i]));

export const sameState = (a: MessageState, b: MessageState): boolean =>
  sameLabels(a.labels, b.labels) && PLAIN_CELLS.every((cell) => sameValue(a[cell], b[cell]));

type Value = MessageEdit["before"];

/** Equality of two values of one cell. */
export function sameValue(a: Value, b: Value): boolean {
  if (a === b) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  if ("source" in a) return "source" in b && a.source === b.source && sameState(a.state, b.state);
  return "start" in b && sameFlag(a, b);
}

export const ofState = (edit: MessageEdit): edit is StateEdit => edit.kind !== "exists" && edit.kind !== "gone";

/** What the state holds in the cell the edit writes. */
export function readCell(state: MessageState, edit: StateEdit): Value {
  return edit.kind === "label" ? state.labels.includes(edit.label) : state[edit.kind];
}

/** The labels with one added or taken away, still sorted. */
export function withLabel(labels: readonly LabelId[], label: LabelId, on: boolean): readonly LabelId[] {
  if (labels.includes(label) === on) return labels;
  return on ? [...labels, label].sort((a, b) => a - b) : labels.filter((id) => id !== label);
}

/** The state after the edits. Does not look at `before`: reconcile first. */
export function applyEdits(state: MessageState, edits: readonly MessageEdit[]): MessageState {
  let next: { -readonly [K in keyof MessageState]: MessageState[K] } | null = null;
  for (const edit of edits) {
    if (!ofState(edit)) continue;
    next ??= { ...state };
    if (edit.kind === "label") next.labels = withLabel(next.labels, edit.label, edit.after);
    else Object.assign(next, { [edit.kind]: edit.after });
  }
  return next ?? state;
}

/** The edits that lead from one state to another, in the order of their cells; none with equal ends. */
export function editsBetween(before: MessageState, after: MessageState): MessageEdit[] {
  const edits: MessageEdit[] = [];
  for (const kind of PLAIN_CELLS) {
    if (!sameValue(before[kind], after[kind]))
      edits.push({ kind, before: before[kind], after: after[kind] } as MessageEdit);
  }
  if (before.labels === after.labels) return edits;
  for (const label of before.labels)
    if (!after.labels.includes(label)) edits.push({ kind: "label", label, before: true, after: false });
  for (const label of after.labels)
    if (!before.labels.includes(label)) edits.push({ kind: "label", label, before: false, after: true });
  return edits;
}
