/**
 * The mailbox's index as columns: one array a field, one table of the different texts. 100,000 messages are
 * some ten megabytes and decode in a few milliseconds, where objects take ten times both.
 *
 * Layout, little-endian: u32 length of the head; the head as JSON, padded to 8 bytes; then the sections in
 * the head's order, each padded to 8 bytes. Text sections are UTF-8.
 */
export const COLUMNS_VERSION = 1;

/** Bits of the state column. */
export const STATE_BIT = { read: 1, pin: 2, owed: 4, flagged: 8 } as const;

/** What a row is encoded from. Times in milliseconds since 1970, NaN for none. */
export interface ColumnRow {
  readonly id: number;
  readonly thread: number;
  readonly dateMs: number;
  readonly size: number;
  readonly folder: number;
  readonly bits: number;
  readonly traits: number;
  readonly marker: number;
  readonly labels: readonly number[];
  readonly startMs: number;
  readonly dueMs: number;
  readonly deferMs: number;
  readonly awaitMs: number;
  readonly fromName: string;
  readonly fromAddress: string;
  /** Everybody it was sent or copied to, as it is searched and shown in short. */
  readonly to: string;
  readonly subject: string;
  readonly preview: string;
  readonly list: string;
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
  awaitMs: Float64Array,
  size: Uint32Array,
  folder: Uint32Array,
  labelSet: Uint32Array,
  bits: Uint8Array,
  traits: Uint8Array,
  marker: Uint8Array,
} as const;

export const TEXT_COLUMNS = [
  "fromName",
  "fromAddress",
  "to",
  "subject",
  "preview",
  "list",
  "note",
  "flagNote",
] as const;
export type TextColumn = (typeof TEXT_COLUMNS)[number];
export type NumberColumn = keyof typeof NUMBER_COLUMNS;

/** A text column: for each row, which of the different texts it holds. */
export interface Texts {
  readonly index: Uint32Array;
  readonly table: string[];
}

export type Columns = { [K in NumberColumn]: InstanceType<(typeof NUMBER_COLUMNS)[K]> } & {
  readonly count: number;
  readonly texts: Record<TextColumn, Texts>;
  /** The different sets of labels that occur; labelSet points into it. */
  readonly labelSets: (readonly number[])[];
};

interface Head {
  readonly v: number;
  readonly count: number;
  readonly labelSets: (readonly number[])[];
  /** Number of different texts, column by column. */
  readonly tables: Record<TextColumn, number>;
  readonly lengths: readonly number[];
}

/** Collects different values and numbers them in the order they come. */
class Table<T> {
  readonly values: T[] = [];
  private readonly seen = new Map<string, number>();
  number(key: string, value: T): number {
    let at = this.seen.get(key);
    if (at === undefined) {
      at = this.values.push(value) - 1;
      this.seen.set(key, at);
    }
    return at;
  }
}

/** Texts are laid end to end with this between them; it never occurs in one, see `clean`. */
const BETWEEN = "\u0000";
const clean = (text: string): string => (text.includes(BETWEEN) ? text.replaceAll(BETWEEN, " ") : text);

const padded = (bytes: number): number => Math.ceil(bytes / 8) * 8;

/** @param rows in the order they are to have; the order is kept */
export function encodeColumns(rows: readonly ColumnRow[]): Uint8Array {
  const count = rows.length;
  const sets = new Table<readonly number[]>();
  const sections: Uint8Array[] = [];
  const bytesOf = (array: ArrayBufferView) => new Uint8Array(array.buffer, array.byteOffset, array.byteLength);
  for (const name of Object.keys(NUMBER_COLUMNS) as NumberColumn[]) {
    const column = new NUMBER_COLUMNS[name](count);
    if (name === "labelSet") rows.forEach((row, i) => (column[i] = sets.number(row.labels.join(), row.labels)));
    else for (let i = 0; i < count; i++) column[i] = rows[i]![name];
    sections.push(bytesOf(column));
  }
  const tables = {} as Record<TextColumn, number>;
  const encoder = new TextEncoder();
  for (const name of TEXT_COLUMNS) {
    const table = new Table<string>();
    const index = new Uint32Array(count);
    rows.forEach((row, i) => (index[i] = table.number(row[name], clean(row[name]))));
    tables[name] = table.values.length;
    sections.push(bytesOf(index), encoder.encode(table.values.join(BETWEEN)));
  }
  const head: Head = {
    v: COLUMNS_VERSION,
    count,
    labelSets: sets.values,
    tables,
    lengths: sections.map((s) => s.length),
  };
  const headBytes = encoder.encode(JSON.stringify(head));
  const start = padded(4 + headBytes.length);
  const out = new Uint8Array(start + sections.reduce((sum, s) => sum + padded(s.length), 0));
  new DataView(out.buffer).setUint32(0, headBytes.length, true);
  out.set(headBytes, 4);
  let at = start;
  for (const section of sections) {
    out.set(section, at);
    at += padded(section.length);
  }
  return out;
}

/** @throws RangeError for bytes that are not columns of this version. */
export function decodeColumns(buffer: ArrayBuffer): Columns {
  const headLength = buffer.byteLength < 4 ? 0 : new DataView(buffer).getUint32(0, true);
  if (headLength === 0 || headLength + 4 > buffer.byteLength) throw new RangeError("not a column index");
  const decoder = new TextDecoder();
  const head = JSON.parse(decoder.decode(new Uint8Array(buffer, 4, headLength))) as Head;
  if (head.v !== COLUMNS_VERSION) throw new RangeError(`column index of version ${head.v}, this is ${COLUMNS_VERSION}`);
  let at = padded(4 + headLength);
  let section = 0;
  const next = (): [offset: number, length: number] => {
    const offset = at;
    const length = head.lengths[section++] ?? 0;
    at += padded(length);
    if (offset + length > buffer.byteLength) throw new RangeError("the column index is cut short");
    return [offset, length];
  };
  const columns: Record<string, unknown> = { count: head.count, labelSets: head.labelSets };
  for (const name of Object.keys(NUMBER_COLUMNS) as NumberColumn[])
    columns[name] = new NUMBER_COLUMNS[name](buffer, next()[0], head.count);
  const texts = {} as Record<TextColumn, Texts>;
  for (const name of TEXT_COLUMNS) {
    const index = new Uint32Array(buffer, next()[0], head.count);
    const [offset, length] = next();
    const table = decoder.decode(new Uint8Array(buffer, offset, length)).split(BETWEEN);
    texts[name] = { index, table: head.tables[name] === 0 ? [] : table };
  }
  return { ...columns, texts } as Columns;
}
