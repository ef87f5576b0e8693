import { TRAIT } from "@/core/narrow";
import { STATE_COLUMNS } from "./columns";

/** A field of the browser's index, and how its value is read: by the way PostgreSQL sends it. */
export type IndexField =
  | { readonly kind: "whole" | "time"; readonly name: WholeField; readonly sql: string }
  /** Padded: the database keeps it between two spaces, for searching; "" may be one of them. */
  | { readonly kind: "text"; readonly name: TextField; readonly sql: string; readonly padded?: boolean }
  | { readonly kind: "labels"; readonly name: "labels"; readonly sql: string };

type WholeField =
  | ("id" | "thread" | "dateMs" | "size" | "traits" | "account" | "folder" | "bits" | "marker")
  | ("startMs" | "dueMs" | "deferMs" | "backMs" | "awaitMs" | "handMs");
type TextField =
  "sender" | "whom" | "to" | "cc" | "via" | "file" | "subject" | "preview" | "list" | "note" | "flagNote";

const whole = (name: WholeField, sql: string): IndexField => ({ kind: "whole", name, sql });
const text = (name: TextField, sql: string) => ({ kind: "text", name, sql }) as const;

const KIND = { "int[]": "labels", timestamptz: "time", text: "text", int: "whole", smallint: "whole" } as const;

/** Of the person's own mail alone, which is little of a mailbox: taking the JSON apart costs more than all the rest. */
const WHOM = `case when m.traits & ${TRAIT.mine} <> 0 then
  (select left(string_agg(coalesce(nullif(one ->> 'name', ''), one ->> 'address'), ', '), 300)
   from jsonb_array_elements(m.recipients || m.cc) one) end`;

/**
 * What the browser's index is made of, from message m and message_state s. Columns as they lie, wherever that
 * will do: each expression over a hundred thousand rows costs as much as reading some columns more.
 */
export const INDEX_FIELDS: readonly IndexField[] = [
  whole("id", "m.id"),
  whole("thread", "m.thread"),
  { kind: "time", name: "dateMs", sql: "m.date" },
  whole("size", "m.size"),
  whole("traits", "m.traits"),
  whole("account", "m.account"),
  text("sender", "m.from_name || E'\\t' || m.from_address"),
  text("whom", WHOM),
  { ...text("to", "m.to_key"), padded: true },
  { ...text("cc", "m.cc_key"), padded: true },
  text("via", "m.via"),
  text("file", "case when cardinality(m.attachments) > 0 then left(array_to_string(m.attachments, ' '), 4000) end"),
  text("subject", "m.subject"),
  text("preview", "m.preview"),
  text("list", "m.list"),
  ...STATE_COLUMNS.flatMap(({ name, type, field }): IndexField[] =>
    // The state's fields are among the names above, each of the kind its type tells.
    field === null ? [] : [{ kind: KIND[type as keyof typeof KIND], name: field, sql: `s.${name}` } as IndexField],
  ),
];
