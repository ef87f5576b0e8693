import type { Packed } from "./tables";

/** Bits of the state column. */
export const STATE_BIT = { read: 1, pin: 2, owed: 4, flagged: 8 } as const;

/** What a row is encoded from. Times in milliseconds since 1970, NaN for none. */
export interface ColumnRow {
  readonly id: number;
  readonly thread: number;
  readonly dateMs: number;
  readonly size: number;
  readonly folder: number;
  /** The account it came through; 0 for none. */
  readonly account: number;
  readonly bits: number;
  readonly traits: number;
  readonly marker: number;
  readonly labels: readonly number[];
  readonly startMs: number;
  readonly dueMs: number;
  readonly deferMs: number;
  readonly backMs: number;
  readonly awaitMs: number;
  readonly handMs: number;
  readonly fromName: string;
  readonly fromAddress: string;
  /** Of the person's own mail: those it goes to, as they are shown; "" for what others wrote. */
  readonly whom: string;
  /** Everybody it was sent or copied to, as it is searched. */
  readonly to: string;
  /** Those it was copied to. */
  readonly cc: string;
  /** The person's own addresses it came to. */
  readonly via: string;
  readonly subject: string;
  readonly preview: string;
  readonly list: string;
  /** Names of what is attached. */
  readonly file: string;
  readonly note: string;
  readonly flagNote: string;
}

export const NUMBER_COLUMNS = {
  id: Float64Array,
  thread: Float64Array,
  dateMs: Float64Array,
  startMs: Float64Array,
  dueMs: Float64Array,
  deferMs: Float64Array,
  backMs: Float64Array,
  awaitMs: Float64Array,
  handMs: Float64Array,
  size: Uint32Array,
  folder: Uint32Array,
  account: Uint32Array,
  labelSet: Uint32Array,
  traits: Uint16Array,
  bits: Uint8Array,
  marker: Uint8Array,
} as const;

/** "sender" is name and address with a tab between. */
export const TEXT_COLUMNS = [
  "sender",
  "whom",
  "to",
  "cc",
  "via",
  "subject",
  "preview",
  "list",
  "file",
  "note",
  "flagNote",
] as const;
export type TextColumn = (typeof TEXT_COLUMNS)[number];
export type NumberColumn = keyof typeof NUMBER_COLUMNS;

/** A text column: for each row, which of the different texts it holds. */
export interface Texts extends Packed {
  readonly index: Uint32Array;
  /** Texts written since, numbered on from the packed ones. */
  readonly added: string[];
  /** The packed texts as narrowings search them, once that has been made. */
  folded?: Packed;
}

export type Columns = { [K in NumberColumn]: InstanceType<(typeof NUMBER_COLUMNS)[K]> } & {
  readonly count: number;
  readonly texts: Record<TextColumn, Texts>;
  /** The different sets of labels that occur; labelSet points into it. */
  readonly labelSets: (readonly number[])[];
};
