/**
 * Rows in PostgreSQL's binary COPY format (version 1: a signature, then each row as a count of fields and
 * each field as its length and bytes). Sources of mail go in this way: as text they would be twice as long.
 */
const SIGNATURE = Buffer.from("PGCOPY\n\xff\r\n\0\0\0\0\0\0\0\0\0", "latin1");
const TRAILER = Buffer.from([0xff, 0xff]);

const field = (bytes: Uint8Array): Uint8Array[] => {
  const length = Buffer.alloc(4);
  length.writeInt32BE(bytes.length);
  return [length, bytes];
};

/** A bigint column's value. */
export function int8(value: number): Uint8Array {
  const bytes = Buffer.alloc(8);
  bytes.writeBigInt64BE(BigInt(value));
  return bytes;
}

/** @param rows fields in the order of the columns, none null */
export function copyRows(rows: Iterable<readonly Uint8Array[]>): Buffer {
  const pieces: Uint8Array[] = [SIGNATURE];
  for (const row of rows) {
    const count = Buffer.alloc(2);
    count.writeInt16BE(row.length);
    pieces.push(count, ...row.flatMap(field));
  }
  return Buffer.concat([...pieces, TRAILER]);
}
