import { Readable } from "node:stream";
import { createGunzip } from "node:zlib";
import { extract } from "tar-stream";
import yauzl from "yauzl";
import type { Database } from "../../db";
import { fileOf } from "../rows";

/** Files in one file: zip, tar, and tar packed with gzip. */

export interface PackedFile {
  readonly path: string;
  /** Bytes, unpacked. */
  readonly size: number;
}

export interface Packed {
  readonly files: readonly PackedFile[];
  /** Those of some numbers, in their order; each is to be read before the next. */
  readonly each: (
    wanted: ReadonlySet<number>,
  ) => AsyncIterable<{ readonly n: number; readonly bytes: AsyncIterable<Uint8Array> }>;
}

const ZIP = /^PK(\x03\x04|\x05\x06)/;
const GZIP = /^\x1f\x8b/;
const TAR_AT = 257;
const HEAD_BYTES = 512;

async function headOf(db: Database, job: number): Promise<Buffer> {
  for await (const chunk of fileOf(db, job, 0)) return Buffer.from(chunk.subarray(0, HEAD_BYTES));
  return Buffer.alloc(0);
}

/** The file of a job as a reader of zips wants it. */
class Chunks extends yauzl.RandomAccessReader {
  constructor(
    private readonly db: Database,
    private readonly job: number,
  ) {
    super();
  }

  private async *part(start: number, end: number): AsyncGenerator<Uint8Array> {
    let left = end - start;
    for await (const chunk of fileOf(this.db, this.job, start)) {
      yield chunk.subarray(0, left);
      left -= chunk.length;
      if (left <= 0) return;
    }
  }

  override _readStreamForRange(start: number, end: number): Readable {
    return Readable.from(this.part(start, end), { objectMode: false });
  }
}

async function openZip(db: Database, job: number, total: number): Promise<Packed> {
  const zip = await yauzl.fromRandomAccessReaderPromise(new Chunks(db, job), total, {
    lazyEntries: true,
    autoClose: false,
  });
  const entries: yauzl.Entry[] = [];
  for await (const entry of zip.eachEntry()) entries.push(entry);
  return {
    files: entries.map(({ fileName, uncompressedSize }) => ({ path: fileName, size: uncompressedSize })),
    each: async function* (wanted) {
      for (const [n, entry] of entries.entries())
        if (wanted.has(n)) yield { n, bytes: await zip.openReadStreamPromise(entry) };
    },
  };
}

function tarOf(db: Database, job: number, isPacked: boolean) {
  const unpacked = extract();
  const file = Readable.from(fileOf(db, job, 0), { objectMode: false });
  const fail = (error: Error) => unpacked.destroy(error);
  file.on("error", fail);
  (isPacked ? file.pipe(createGunzip().on("error", fail)) : file).pipe(unpacked);
  return unpacked;
}

async function openTar(db: Database, job: number, isPacked: boolean): Promise<Packed> {
  const files: PackedFile[] = [];
  for await (const entry of tarOf(db, job, isPacked)) {
    const { name, size = 0, type } = entry.header;
    files.push({ path: type === "file" || type === "contiguous-file" ? name : `${name}/`, size });
    entry.resume();
  }
  return {
    files,
    each: async function* (wanted) {
      let n = 0;
      for await (const entry of tarOf(db, job, isPacked)) {
        // What the package calls unknown is bytes.
        if (wanted.has(n)) yield { n, bytes: entry as AsyncIterable<Uint8Array> };
        entry.resume();
        n++;
      }
    },
  };
}

/** @returns null for a file that holds no files */
export async function openPacked(db: Database, job: number): Promise<Packed | null> {
  const head = (await headOf(db, job)).toString("latin1");
  const [row] = await db.sql<{ total: number }[]>`
    select coalesce(max(position + length(data)), 0)::float8 as total from job_chunk where job = ${job}`;
  if (ZIP.test(head)) return openZip(db, job, row!.total);
  if (GZIP.test(head))
    return openTar(db, job, true).catch((error: unknown) => {
      throw new Error("What is packed in it is no tar. Unpack it, and choose the file that comes out.", {
        cause: error,
      });
    });
  return head.slice(TAR_AT, TAR_AT + 5) === "ustar" ? openTar(db, job, false) : null;
}
