import type { MessageId, PersonId } from "@/core/id";
import { eachOnce, type Correspondent, type Original } from "@/core/letter";
import { parseHead, readHead } from "@/core/mail";
import type { Queryable } from "../db";
import { partsOf } from "../parse";
import { listOf } from "../store";
import type { LetterFile } from "./mime";

/** A message as its answer needs it. */
export interface Answered extends Original {
  readonly id: MessageId;
  readonly thread: number;
  readonly list: string;
  readonly date: Date;
  /** The person's own addresses it came to. */
  readonly via: readonly string[];
  readonly raw: Uint8Array;
  readonly flaws: readonly string[];
}

interface Row {
  id: MessageId;
  thread: number;
  list: string;
  via: string;
  date: number;
  subject: string;
  flaws: string[];
  raw: Uint8Array;
}

type Entry = { readonly name?: string; readonly address?: string };

const peopleOf = (list: readonly (Entry & { readonly group?: readonly Entry[] })[] | undefined): Correspondent[] =>
  eachOnce(
    (list ?? [])
      .flatMap((one) => one.group ?? [one])
      .map(({ name = "", address = "" }) => ({ name, address }))
      .filter(({ address }) => address !== ""),
  );

/** What answers need to know of the messages they answer; those that are gone are missing. */
export async function readOriginals(
  sql: Queryable,
  person: PersonId,
  ids: readonly MessageId[],
): Promise<Map<MessageId, Answered>> {
  const rows = await sql<Row[]>`
    select m.id, m.thread, m.list, m.via, m.subject, m.flaws, (extract(epoch from m.date) * 1000)::float8 as date, c.raw
    from message m join content c on c.person = m.person and c.id = m.content
    where m.person = ${person} and m.id = any(${listOf(ids)}::text::bigint[])`;
  const out = new Map<MessageId, Answered>();
  for (const { date, via, ...row } of rows) {
    const parsed = await parseHead(row.raw, { now: new Date(date) });
    const { email } = await readHead(row.raw);
    out.set(row.id, {
      ...row,
      date: new Date(date),
      via: via.split(", ").filter(Boolean),
      from: parsed.from,
      to: parsed.to,
      cc: parsed.cc,
      replyTo: peopleOf(email.replyTo),
      messageId: parsed.messageId,
      references: parsed.references,
    });
  }
  return out;
}

/** The files of an original, for a forward; pictures in its text are not among them. */
export async function filesOf({ raw, flaws }: Answered): Promise<Omit<LetterFile, "id">[]> {
  const { email } = await partsOf(raw, flaws);
  return email.attachments
    .filter((part) => part.disposition !== "inline" || !part.related)
    .map((part, i) => ({
      name: part.filename ?? (part.mimeType === "message/rfc822" ? "message.eml" : `part-${i + 1}`),
      type: part.mimeType,
      data:
        typeof part.content === "string"
          ? new TextEncoder().encode(part.content)
          : new Uint8Array(part.content as ArrayBuffer),
      cid: null,
    }));
}
