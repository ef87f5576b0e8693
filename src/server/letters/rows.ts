import type { MessageId, PersonId } from "@/core/id";
import type { Correspondent, Doc, LetterKind } from "@/core/letter";
import { unstorableAt } from "@/core/text";
import type { Queryable, Transaction } from "../db";
import type { LetterFile } from "./mime";

/** What of a draft can be edited, as it is stored. */
export interface DraftRow {
  readonly message: MessageId;
  readonly kind: LetterKind;
  readonly answers: MessageId | null;
  readonly sender: Correspondent;
  readonly to: readonly Correspondent[];
  readonly cc: readonly Correspondent[];
  readonly bcc: readonly Correspondent[];
  readonly subject: string;
  readonly body: Doc;
  readonly plain: boolean;
  readonly messageId: string;
  readonly inReplyTo: string | null;
  readonly references: readonly string[];
  readonly list: string;
  /** ISO 8601 */
  readonly sendAt: string | null;
  readonly sent: number | null;
  readonly sentToo: boolean;
  readonly version: number;
}

const json = (value: unknown): string => {
  const at = unstorableAt(value);
  // What comes in from outside is mended where it is read; the editor's own text was checked by the route.
  return at === null
    ? JSON.stringify(value)
    : JSON.stringify(value).replace(/\\u0000|\\ud[89a-f][0-9a-f]{2}/gi, "\\ufffd");
};

export async function readDraft(sql: Queryable, person: PersonId, message: MessageId): Promise<DraftRow | null> {
  const [row] = await sql<(Omit<DraftRow, "sendAt"> & { send_ms: number | null })[]>`
    select message, kind, answers, sender, recipients as to, cc, bcc, subject, body, plain, message_id as "messageId",
      in_reply_to as "inReplyTo", thread_ids as references, list, (extract(epoch from send_at) * 1000)::float8 as send_ms,
      sent, sent_too as "sentToo", version
    from draft where person = ${person} and message = ${message}`;
  if (!row) return null;
  const { send_ms, ...rest } = row;
  return { ...rest, sendAt: send_ms === null ? null : new Date(send_ms).toISOString() };
}

export async function insertDraft(tx: Transaction, person: PersonId, draft: DraftRow): Promise<void> {
  await tx`
    insert into draft (person, message, kind, answers, sender, recipients, cc, bcc, subject, body, plain, message_id,
      in_reply_to, thread_ids, list, send_at, sent, sent_too)
    values (${person}, ${draft.message}, ${draft.kind}, ${draft.answers}, ${json(draft.sender)}::text::jsonb,
      ${json(draft.to)}::text::jsonb, ${json(draft.cc)}::text::jsonb, ${json(draft.bcc)}::text::jsonb, ${draft.subject},
      ${json(draft.body)}::text::jsonb, ${draft.plain}, ${draft.messageId}, ${draft.inReplyTo},
      ${[...draft.references]}::text[], ${draft.list}, ${draft.sendAt}, ${draft.sent}, ${draft.sentToo})`;
}

/** Writes what was edited, where nobody else has since. @returns the new version; null where somebody has */
export async function updateDraft(
  tx: Transaction,
  person: PersonId,
  draft: DraftRow,
  version: number,
): Promise<number | null> {
  const [row] = await tx<{ version: number }[]>`
    update draft set sender = ${json(draft.sender)}::text::jsonb, recipients = ${json(draft.to)}::text::jsonb,
      cc = ${json(draft.cc)}::text::jsonb, bcc = ${json(draft.bcc)}::text::jsonb, subject = ${draft.subject},
      body = ${json(draft.body)}::text::jsonb, plain = ${draft.plain}, send_at = ${draft.sendAt}, sent = ${draft.sent},
      sent_too = ${draft.sentToo}, version = version + 1, updated_at = now()
    where person = ${person} and message = ${draft.message} and version = ${version} returning version`;
  return row?.version ?? null;
}

export const readFiles = (sql: Queryable, person: PersonId, message: MessageId): Promise<LetterFile[]> =>
  sql<LetterFile[]>`
    select id, name, type, data, cid from draft_file where person = ${person} and message = ${message} order by id`;

/** Puts files to a draft. @returns them with their numbers */
export async function insertFiles(
  tx: Queryable,
  person: PersonId,
  message: MessageId,
  files: readonly Omit<LetterFile, "id">[],
): Promise<LetterFile[]> {
  const out: LetterFile[] = [];
  for (const file of files) {
    const [row] = await tx<{ id: number }[]>`
      insert into draft_file (person, message, name, type, data, cid)
      values (${person}, ${message}, ${file.name.slice(0, 255)}, ${file.type}, ${file.data}, ${file.cid}) returning id`;
    out.push({ ...file, id: row!.id });
  }
  return out;
}
