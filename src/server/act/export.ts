import { once } from "node:events";
import { Readable } from "node:stream";
import archiver from "archiver";
import { mboxEntry } from "@/core/mail";
import type { Test } from "@/core/narrow";
import type { MessageId } from "@/core/id";
import { mustBeHere } from "../run";
import { pageOfIds } from "../search";
import type { Context } from "./context";

interface Source {
  readonly id: number;
  readonly raw: Uint8Array;
  readonly sender: string;
  readonly subject: string;
  readonly date: Date;
}

/** Sources are read a few at a time, so that an export of any size stays small in memory. */
const AT_ONCE = 50;

async function* sources({ db, person }: Context, ids: readonly MessageId[]): AsyncGenerator<Source> {
  for (let at = 0; at < ids.length; at += AT_ONCE) {
    const part = ids.slice(at, at + AT_ONCE);
    const rows = await db.sql<{ id: number; raw: Uint8Array; from_address: string; subject: string; ms: number }[]>`
      select m.id, c.raw, m.from_address, m.subject, (extract(epoch from m.date) * 1000)::float8 as ms
      from message m join content c on c.person = m.person and c.id = m.content
      where m.person = ${person} and m.id = any(${part}::bigint[]) order by m.date, m.id`;
    for (const row of rows)
      yield { id: row.id, raw: row.raw, sender: row.from_address, subject: row.subject, date: new Date(row.ms) };
  }
}

/** A file name from a subject: letters, digits and dashes, and never a path. */
const fileName = (source: Source): string =>
  `${source.date.toISOString().slice(0, 10)}-${
    source.subject
      .normalize("NFKD")
      .replace(/[^A-Za-z0-9]+/g, "-")
      .replace(/^-+|-+$/g, "")
      .slice(0, 60) || "message"
  }-${source.id}.eml`;

/**
 * The matching messages as one mbox file or a zip of eml files, oldest first, as they came in.
 * @throws Refusal while sources of them are to come from a server
 */
export async function exportMessages(
  context: Context,
  which: Test | readonly MessageId[],
  format: "mbox" | "zip",
): Promise<Readable> {
  const ids = Array.isArray(which)
    ? (which as readonly MessageId[])
    : (await pageOfIds(context.db.sql, context.person, which as Test, "oldest", null)).map((place) => place.id);
  await mustBeHere(context.db.sql, context.person, ids);
  if (format === "mbox") {
    async function* entries() {
      for await (const source of sources(context, ids)) yield mboxEntry(source.raw, source.sender, source.date);
    }
    return Readable.from(entries(), { objectMode: false });
  }
  const zip = archiver("zip", { zlib: { level: 6 } });
  const fill = async () => {
    for await (const source of sources(context, ids)) {
      // The next is read when this one has been written, so nothing piles up.
      const written = once(zip, "entry");
      zip.append(Buffer.from(source.raw), { name: fileName(source), date: source.date });
      await written;
    }
    await zip.finalize();
  };
  fill().catch((error: Error) => zip.destroy(error));
  return zip;
}
