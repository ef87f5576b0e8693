import { Readable } from "node:stream";
import type postgres from "postgres";
import type { Queryable } from "./client";

/** Between PostgreSQL's beginning of time and that of everybody else. */
const EPOCH_2000_MS = 946_684_800_000;
/** The signature, flags, and the length of an extension that nobody uses. */
const HEAD_BYTES = 19;

/** A row as PostgreSQL's binary COPY format has it: its fields are read where they lie, and stay there for one call. */
export class CopyRow {
  bytes: Buffer = Buffer.alloc(0);
  /** Where each field begins and ends; null ends before it begins. */
  readonly starts: Int32Array;
  readonly ends: Int32Array;

  constructor(fields: number) {
    this.starts = new Int32Array(fields);
    this.ends = new Int32Array(fields);
  }

  isNull = (field: number): boolean => this.ends[field]! < this.starts[field]!;

  /** A smallint, int or bigint. */
  whole(field: number): number {
    const at = this.starts[field]!;
    const size = this.ends[field]! - at;
    if (size === 2) return this.bytes.readInt16BE(at);
    if (size === 4) return int32(this.bytes, at);
    return int32(this.bytes, at) * 2 ** 32 + (int32(this.bytes, at + 4) >>> 0);
  }

  /** A timestamptz, in milliseconds since 1970; NaN for null. */
  time = (field: number): number => (this.isNull(field) ? NaN : this.whole(field) / 1000 + EPOCH_2000_MS);

  /** An int[] in one dimension and without nulls: a head of 20 bytes where it is not empty, then lengths and values. */
  wholes(field: number): number[] {
    const out: number[] = [];
    for (let at = this.starts[field]! + 24; at < this.ends[field]!; at += 8) out.push(int32(this.bytes, at));
    return out;
  }
}

/** A length or a value of four bytes; the buffer's own way asks more than it has to, forty times a row. */
const int32 = (bytes: Buffer, at: number): number =>
  (bytes[at]! << 24) | (bytes[at + 1]! << 16) | (bytes[at + 2]! << 8) | bytes[at + 3]!;

/** Finds the fields of the row that begins there. @returns where it ends; 0 while some of it is still to come */
function fieldsAt(row: CopyRow, bytes: Buffer, start: number): number {
  const { starts, ends } = row;
  let at = start + 2;
  for (let field = 0; field < starts.length; field++) {
    if (at + 4 > bytes.length) return 0;
    const size = int32(bytes, at);
    at += 4;
    starts[field] = at;
    ends[field] = at + size;
    if (size > 0) at += size;
  }
  if (at > bytes.length) return 0;
  row.bytes = bytes;
  return at;
}

/**
 * A stream that fails in the very piece it begins with does so before whoever waits for it can listen, which would
 * end the process: somebody listens from the moment it is made. Whoever reads it afterwards is told all the same.
 */
function readableOf(query: postgres.PendingQuery<postgres.Row[]>): Promise<Readable> {
  // The driver's queries are promises that carry what settles them.
  const settles = query as unknown as { resolve: (value: unknown) => void };
  const { resolve } = settles;
  settles.resolve = (value) => {
    // At its end the query settles once more, with its count.
    if (value instanceof Readable) value.on("error", () => undefined);
    resolve(value);
  };
  return query.readable();
}

/**
 * Runs something on a connection that nothing else is asked on meanwhile. The driver puts what is asked while all
 * connections are busy behind what one of them does, and refuses it where that is a COPY.
 */
async function alone<T>(sql: Queryable, work: (sql: Queryable) => Promise<T>): Promise<T> {
  // A transaction has its connection for itself.
  if (!("reserve" in sql)) return work(sql);
  const own = await sql.reserve();
  try {
    return await work(own);
  } finally {
    own.release();
  }
}

/**
 * The rows of a query by COPY, which has no parameters: for many rows and fields the driver's own way takes
 * several times as long.
 * @param fields how many a row has
 * @param take is given the same row, filled anew, for each
 */
export const readCopy = (sql: Queryable, query: string, fields: number, take: (row: CopyRow) => void): Promise<void> =>
  alone(sql, (own) => copyOn(own, query, fields, take));

async function copyOn(sql: Queryable, query: string, fields: number, take: (row: CopyRow) => void): Promise<void> {
  const row = new CopyRow(fields);
  const stream = await readableOf(sql.unsafe(`copy (${query}) to stdout (format binary)`));
  let rest: Buffer | null = null;
  let skip = HEAD_BYTES;
  let failure: Error | null = null;
  const read = (piece: Buffer): void => {
    const bytes: Buffer = rest ? Buffer.concat([rest, piece]) : piece;
    let at = Math.min(skip, bytes.length);
    skip -= at;
    // The end is told by a row of -1 fields.
    while (at + 2 <= bytes.length && bytes.readInt16BE(at) !== -1) {
      const end = fieldsAt(row, bytes, at);
      if (end === 0) break;
      take(row);
      at = end;
    }
    rest = at < bytes.length ? bytes.subarray(at) : null;
  };
  const onData = (piece: Buffer): void => {
    // What goes wrong in a row is told at the end: the rest has to be read off the connection all the same.
    if (failure) return;
    try {
      read(piece);
    } catch (error) {
      failure = error instanceof Error ? error : new Error(String(error));
    }
  };
  try {
    // Read as it comes, row by row: waiting for pieces stops the connection and starts it again for each.
    await new Promise<void>((done, fail) => {
      if (stream.errored) fail(stream.errored);
      stream.on("data", onData).once("end", done).once("error", fail);
    });
  } finally {
    // The driver pauses its connection while rows wait here, and after the last ones would leave it so.
    stream._read(0);
  }
  if (failure) throw failure as Error;
}
