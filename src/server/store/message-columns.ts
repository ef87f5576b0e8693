/**
 * The one table of what a message says about itself and no run changes: its columns with their SQL types, but
 * for the person and the id. What intake writes, what a copy takes over.
 */
export const MESSAGE_COLUMNS = {
  content: "bigint",
  account: "int",
  thread: "bigint",
  date: "timestamptz",
  size: "int",
  traits: "smallint",
  from_name: "text",
  from_address: "text",
  recipients: "jsonb",
  cc: "jsonb",
  subject: "text",
  preview: "text",
  list: "text",
  message_id: "text",
  attachments: "text[]",
  flaws: "text[]",
  from_key: "text",
  to_key: "text",
  subject_key: "text",
  list_key: "text",
  cc_key: "text",
  via: "text",
  via_key: "text",
  file_key: "text",
} as const;
export type MessageColumn = keyof typeof MESSAGE_COLUMNS;

const NAMES = Object.keys(MESSAGE_COLUMNS) as MessageColumn[];

/** "content, thread, …", or "m.content, m.thread, …" of that table. */
export const messageColumns = (table = ""): string =>
  NAMES.map((name) => (table ? `${table}.${name}` : name)).join(", ");

/** The columns as a record is declared by them. */
export const messageRecord = (): string => NAMES.map((name) => `${name} ${MESSAGE_COLUMNS[name]}`).join(", ");
