import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { PersonId } from "@/core/id";
import { viaOf, wireSize, type Address, type Flaw, type Keys, type Parsed } from "@/core/mail";
import { fold, TRAIT } from "@/core/narrow";
import { cut, storable } from "@/core/text";
import { PREPARED, type Queryable, type Transaction } from "../db";
import { noteComing } from "./coming";
import { copyRows, int8 } from "./copy";
import { listOf } from "./list";
import { messageColumns, messageRecord, MESSAGE_COLUMNS } from "./message-columns";

/** The person's own addresses, in lower case. */
export async function ownAddresses(sql: Queryable, person: PersonId): Promise<Set<string>> {
  const [owner] = await sql<{ address: string; settings: { aliases?: string[] }; identities: string[] }[]>`
    select address, settings, array(select i.address from identity i where i.person = p.id) as identities
    from person p where id = ${person}`;
  const all = [owner?.address ?? "", ...(owner?.settings.aliases ?? []), ...(owner?.identities ?? [])];
  return new Set(all.map((address) => address.toLowerCase()).filter(Boolean));
}

export function viaColumns(parsed: Parsed, own: ReadonlySet<string>): { via: string; via_key: string } {
  const via = viaOf(parsed, own);
  return { via: via.join(", "), via_key: fold(via.join(" ")) };
}

/** Numbers that rows of a table are to have. */
export async function reserve(
  tx: Transaction,
  table: "content" | "message" | "task" | "calendar" | "event",
  count: number,
): Promise<number[]> {
  if (count === 0) return [];
  const rows = await tx<{ id: number }[]>`
    with of as materialized (select pg_get_serial_sequence(${table}, 'id')::regclass as sequence)
    select nextval(of.sequence) as id from of, generate_series(1, ${count})`;
  return rows.map((row) => row.id);
}

/** What was read of a source, and where its rows go. */
export interface NewMessage {
  readonly id: number;
  readonly content: number;
  readonly thread: number;
  /** The account it came through; 0 for none. */
  readonly account: number;
  readonly raw: Uint8Array;
  /** SHA-256 of the source. */
  readonly hash: Uint8Array;
  readonly parsed: Parsed;
  readonly keys: Keys;
  readonly folder: number;
  /** Of STATE_BIT in core/columns. */
  readonly bits: number;
  /** 0 for none. */
  readonly marker: number;
  readonly labels: readonly number[];
  /** Its sender's number; 0 for the person. */
  readonly sender: number;
  /** Of one whose source is on a server still: how many bytes that has. Its "raw" is the headers. */
  readonly coming?: number | undefined;
}

type Read = Pick<NewMessage, "raw" | "parsed" | "keys" | "coming">;

/** What of a row is read from the source. */
export const readColumns = ({ raw, parsed, keys, coming }: Read, own: ReadonlySet<string>) => ({
  date: parsed.date.toISOString(),
  size: coming ?? wireSize(raw),
  traits: parsed.traits | (own.has(parsed.from.address.toLowerCase()) ? TRAIT.mine : 0),
  from_name: parsed.from.name,
  from_address: parsed.from.address,
  recipients: parsed.to,
  cc: parsed.cc,
  subject: parsed.subject,
  preview: parsed.preview,
  list: parsed.list,
  message_id: parsed.messageId,
  attachments: parsed.attachments,
  flaws: coming === undefined ? parsed.flaws : [...parsed.flaws, "coming" satisfies Flaw],
  from_key: keys.from,
  to_key: keys.to,
  subject_key: keys.subject,
  list_key: keys.list,
  cc_key: keys.cc,
  file_key: keys.file,
  ...viaColumns(parsed, own),
});

const recordOf = (message: NewMessage, own: ReadonlySet<string>) => {
  const { id, content, thread, account, folder, bits, marker, labels, sender } = message;
  return { id, content, thread, account, folder, bits, marker, labels, sender, ...readColumns(message, own) };
};

/** Rows as JSON that the database takes. */
export const storableJson = (rows: readonly unknown[]): string =>
  JSON.stringify(rows, (_key, value: unknown) => (typeof value === "string" ? storable(value) : value));

const jsonOf = (messages: readonly NewMessage[], own: ReadonlySet<string>): string =>
  storableJson(messages.map((message) => recordOf(message, own)));

/**
 * Fewer bytes than these are written like anything else. The end of a copy is a packet of its own, which is held back
 * until the one before it is acknowledged, and that is put off for 40 ms (RFC 896; RFC 1122, section 4.2.3.2).
 */
const COPIED_BYTES = 1 << 18;

/** Writes sources that are new. */
export async function insertContents(
  tx: Transaction,
  person: PersonId,
  messages: readonly Pick<NewMessage, "content" | "hash" | "raw">[],
): Promise<void> {
  const bytes = messages.reduce((sum, { raw }) => sum + raw.length, 0);
  // The quickest way for many does not lead through the walls that requests stand behind.
  const isCopied = bytes >= COPIED_BYTES && !(await isWalled(tx));
  if (!isCopied) {
    const hex = (of: (message: Pick<NewMessage, "hash" | "raw">) => Uint8Array) =>
      `{${messages.map((message) => `"${Buffer.from(of(message)).toString("hex")}"`).join(",")}}`;
    await tx`insert into content (person, id, hash, raw)
      select ${person}, c.id, decode(c.hash, 'hex'), decode(c.raw, 'hex')
      from unnest(${listOf(messages.map(({ content }) => content))}::text::bigint[], ${hex(({ hash }) => hash)}::text::text[],
        ${hex(({ raw }) => raw)}::text::text[]) as c(id, hash, raw)`;
    return;
  }
  const rows = copyRows(messages.map(({ content, hash, raw }) => [int8(person), int8(content), hash, raw]));
  await pipeline(
    Readable.from([rows]),
    await tx`copy content (person, id, hash, raw) from stdin (format binary)`.writable(),
  );
}

async function isWalled(tx: Transaction): Promise<boolean> {
  const [wall] = await tx<{ isThere: boolean }[]>`select row_security_active('content') as "isThere"`;
  return wall!.isThere;
}

/** Writes messages that are new: source, headers and state. Nobody else can know of them yet. */
export async function insertMessages(
  tx: Transaction,
  person: PersonId,
  own: ReadonlySet<string>,
  messages: readonly NewMessage[],
): Promise<void> {
  await insertContents(tx, person, messages);
  await tx.unsafe(
    `with r as materialized (select * from jsonb_to_recordset($2::text::jsonb)
       as r(id bigint, ${messageRecord()}, bits smallint, marker smallint, labels int[], folder int, sender int)),
     m as (insert into message (person, id, ${messageColumns()}) select $1, id, ${messageColumns()} from r)
     insert into message_state (person, message, folder, bits, marker, labels, sender)
       select $1, id, folder, bits, marker, labels, sender from r`,
    [person, jsonOf(messages, own)],
    PREPARED,
  );
  await noteComing(
    tx,
    person,
    messages.flatMap(({ content, account, coming, parsed }) =>
      coming === undefined ? [] : [{ content, account, date: parsed.date }],
    ),
  );
}

/** Says of messages that they came through an account. @returns those of which it was not said before */
export async function claimMessages(
  tx: Transaction,
  person: PersonId,
  account: number,
  messages: readonly number[],
): Promise<number[]> {
  const rows = await tx<{ id: number }[]>`
    update message set account = ${account}
    where person = ${person} and id = any(${listOf(messages)}::text::bigint[]) and account <> ${account} returning id`;
  return rows.map(({ id }) => id);
}

/** Gives a message of the person's own another source: what of it changes is what the source says. */
export async function replaceSource(
  tx: Transaction,
  person: PersonId,
  own: ReadonlySet<string>,
  message: NewMessage,
): Promise<void> {
  const [before] = await tx<{ content: number; same: boolean; shared: boolean }[]>`
    select m.content, c.hash = ${message.hash} as same,
      exists (select from message o where o.person = m.person and o.content = m.content and o.id <> m.id) as shared
    from message m join content c on c.person = m.person and c.id = m.content
    where m.person = ${person} and m.id = ${message.id}`;
  if (!before) return;
  const { same, shared } = before;
  if (!same)
    await tx`
      insert into content (person, id, hash, raw) values (${person}, ${message.content}, ${message.hash}, ${message.raw})`;
  const next = { ...message, content: same ? before.content : message.content };
  const set = Object.keys(MESSAGE_COLUMNS)
    .map((name) => `${name} = r.${name}`)
    .join(", ");
  await tx.unsafe(
    `update message m set ${set} from jsonb_to_recordset($2::text::jsonb) as r(id bigint, ${messageRecord()})
     where m.person = $1 and m.id = r.id`,
    [person, jsonOf([next], own)],
    PREPARED,
  );
  // A copy of the message may hold the source it had.
  if (!same && !shared) await tx`delete from content where person = ${person} and id = ${before.content}`;
}

const PREVIEW = 140;

/** What of a draft the lists show, before its source is made. */
export interface Shown {
  readonly sender: Address;
  readonly to: readonly Address[];
  readonly cc: readonly Address[];
  readonly subject: string;
  /** Its words. */
  readonly preview: string;
}

const keyOf = (people: readonly Address[]): string =>
  fold(
    people
      .map(({ name, address }) => `${name} ${address}`)
      .join(" ")
      .slice(0, 4000),
  );

/** Shows a draft in lists as it is being written. */
export async function showDraft(
  tx: Transaction,
  person: PersonId,
  message: number,
  { sender, to, cc, subject, preview }: Shown,
): Promise<void> {
  await tx`
    update message set subject = ${subject}, preview = ${cut(preview.replace(/\s+/g, " ").trim(), PREVIEW)},
      subject_key = ${fold(subject)}, from_name = ${sender.name}, from_address = ${sender.address},
      from_key = ${keyOf([sender])}, recipients = ${JSON.stringify(to)}::text::jsonb, cc = ${JSON.stringify(cc)}::text::jsonb,
      to_key = ${keyOf([...to, ...cc])}, cc_key = ${keyOf(cc)}
    where person = ${person} and id = ${message}`;
}

/** Notes that the person has answered a message. @returns its id where that was not known yet */
export async function markAnswered(tx: Transaction, person: PersonId, message: number): Promise<number[]> {
  const rows = await tx<{ id: number }[]>`
    update message set traits = traits | ${TRAIT.answered}
    where person = ${person} and id = ${message} and traits & ${TRAIT.answered} = 0 returning id`;
  // A server it is on is to know it too; triggers stand on what changes about a message, and this does not.
  if (rows.length > 0)
    await tx`
      insert into due (person, message) select person, message from placement
      where person = ${person} and message = ${message}
      on conflict (person, message) do update set writes = due.writes + 1`;
  return rows.map(({ id }) => id);
}
