import type { MessageRow } from "@/core/api";
import { STATE_BIT } from "@/core/columns";
import type { Address } from "@/core/mail";
import { LOCAL_ACCOUNT } from "@/core/narrow";
import { accountName, type Directory } from "@/core/place";
import { messageJoin } from "../search";
import type { Queryable } from "../db";
import type { Context } from "./context";

interface Row {
  id: number;
  thread: number;
  account: number;
  from_name: string;
  from_address: string;
  recipients: Address[];
  subject: string;
  preview: string;
  ms: number;
  size: number;
  folder: number;
  bits: number;
  marker: number;
  labels: number[];
  start: number | null;
  due: number | null;
  flag_note: string | null;
  note: string | null;
  attachments: number;
}

/** Messages by id as the API gives them, in the order of the ids; those that do not exist are missing. */
export async function readRows(
  sql: Queryable,
  { person }: Context,
  directory: Directory,
  ids: readonly number[],
): Promise<MessageRow[]> {
  if (ids.length === 0) return [];
  const rows = await sql<Row[]>`
    select m.id, m.thread, m.account, m.from_name, m.from_address, m.recipients, m.subject, m.preview,
      (extract(epoch from m.date) * 1000)::float8 as ms, m.size, cardinality(m.attachments) as attachments,
      s.folder, s.bits, s.marker, s.labels, s.flag_note, s.note,
      (extract(epoch from s.flag_start) * 1000)::float8 as start, (extract(epoch from s.flag_due) * 1000)::float8 as due
    from ${messageJoin(sql, person)} and m.id = any(${[...ids]}::bigint[])`;
  const folders = new Map(directory.folders.map((f) => [f.id as number, f.path]));
  const labels = new Map(directory.labels.map((l) => [l.id as number, l.name]));
  const markers = new Map(directory.markers.map((m) => [m.id as number, m.letter]));
  const accounts = new Map(directory.accounts?.map((account) => [account.id, accountName(account)]));
  const iso = (ms: number | null) => (ms === null ? null : new Date(ms).toISOString());
  const byId = new Map(
    rows.map((row): [number, MessageRow] => [
      row.id,
      {
        id: row.id,
        thread: row.thread,
        from: { name: row.from_name, address: row.from_address },
        to: row.recipients,
        subject: row.subject,
        date: new Date(row.ms).toISOString(),
        size: row.size,
        folder: folders.get(row.folder) ?? "",
        read: (row.bits & STATE_BIT.read) !== 0,
        flag: row.bits & STATE_BIT.flagged ? { start: iso(row.start), due: iso(row.due), note: row.flag_note } : null,
        pin: (row.bits & STATE_BIT.pin) !== 0,
        marker: markers.get(row.marker) ?? null,
        labels: row.labels.map((label) => labels.get(label) ?? "").filter(Boolean),
        attachments: row.attachments,
        account: accounts.get(row.account) ?? LOCAL_ACCOUNT,
        preview: row.preview,
        note: row.note,
      },
    ]),
  );
  return ids.map((id) => byId.get(id)).filter((row) => row !== undefined);
}
