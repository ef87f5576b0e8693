import type { MessageState } from "../change";
import { folderId, labelId, markerId } from "../id";
import { STATE_BIT } from "./format";

/**
 * A message's state as a row of numbers and texts holds it, in the database and in the browser's columns alike:
 * times in milliseconds since 1970, NaN for none; "" for no text; 0 for no marker.
 */
export interface StateRow {
  readonly folder: number;
  /** Bits of STATE_BIT. */
  readonly bits: number;
  readonly marker: number;
  readonly labels: readonly number[];
  readonly startMs: number;
  readonly dueMs: number;
  readonly deferMs: number;
  readonly backMs: number;
  readonly awaitMs: number;
  readonly handMs: number;
  readonly flagNote: string;
  readonly note: string;
}

const isoOf = (ms: number): string | null => (Number.isNaN(ms) ? null : new Date(ms).toISOString());
const msOf = (iso: string | null | undefined): number => (iso ? Date.parse(iso) : NaN);

/** `rowOfState(stateOfRow(r))` is `r`. */
export function stateOfRow(row: StateRow): MessageState {
  const { bits } = row;
  return {
    folder: folderId(row.folder),
    read: (bits & STATE_BIT.read) !== 0,
    flag:
      bits & STATE_BIT.flagged
        ? { start: isoOf(row.startMs), due: isoOf(row.dueMs), note: row.flagNote || null }
        : null,
    pin: (bits & STATE_BIT.pin) !== 0,
    marker: row.marker === 0 ? null : markerId(row.marker),
    labels: row.labels.map(labelId),
    note: row.note || null,
    defer: isoOf(row.deferMs),
    back: isoOf(row.backMs),
    await: isoOf(row.awaitMs),
    hand: isoOf(row.handMs),
    owed: (bits & STATE_BIT.owed) !== 0,
  };
}

export function rowOfState(state: MessageState): StateRow {
  const { flag } = state;
  return {
    folder: state.folder,
    bits:
      (state.read ? STATE_BIT.read : 0) |
      (state.pin ? STATE_BIT.pin : 0) |
      (state.owed ? STATE_BIT.owed : 0) |
      (flag ? STATE_BIT.flagged : 0),
    marker: state.marker ?? 0,
    labels: state.labels,
    startMs: msOf(flag?.start),
    dueMs: msOf(flag?.due),
    deferMs: msOf(state.defer),
    backMs: msOf(state.back),
    awaitMs: msOf(state.await),
    handMs: msOf(state.hand),
    flagNote: flag?.note ?? "",
    note: state.note ?? "",
  };
}
