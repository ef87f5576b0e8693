import {
  bigint,
  bigserial,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  smallint,
  text,
  uniqueIndex,
} from "drizzle-orm/pg-core";
import { tsvector, bytea, person, id, instant } from "./columns";

/**
 * Mail. What changes about a message (message_state) is apart from what does not (message) and from the source
 * (content): a run touches narrow rows that no search index knows of.
 */

export const contentTable = pgTable(
  "content",
  {
    person: person(),
    id: bigserial("id", { mode: "number" }).notNull(),
    /** SHA-256 of the source: the same message is kept once. */
    hash: bytea("hash").notNull(),
    raw: bytea("raw").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), uniqueIndex("content_hash").on(t.person, t.hash)],
);

export const messageTable = pgTable(
  "message",
  {
    person: person(),
    id: bigserial("id", { mode: "number" }).notNull(),
    content: id("content"),
    thread: id("thread"),
    date: instant("date").notNull(),
    size: integer("size").notNull(),
    traits: smallint("traits").notNull(),
    fromName: text("from_name").notNull(),
    fromAddress: text("from_address").notNull(),
    /** [{name, address}] */
    recipients: jsonb("recipients").notNull(),
    cc: jsonb("cc").notNull(),
    subject: text("subject").notNull(),
    preview: text("preview").notNull(),
    list: text("list").notNull(),
    messageId: text("message_id"),
    attachments: text("attachments").array().notNull(),
    /** What was wrong with it when it came in. */
    flaws: text("flaws").array().notNull(),
    /** Folded texts, as core/narrow folds them. */
    fromKey: text("from_key").notNull(),
    toKey: text("to_key").notNull(),
    subjectKey: text("subject_key").notNull(),
    listKey: text("list_key").notNull(),
    ccKey: text("cc_key").notNull().default(" "),
    /** The person's own addresses it came to, as they are shown. */
    via: text("via").notNull().default(""),
    /** The account it came through; 0 for none. */
    account: integer("account").notNull().default(0),
    viaKey: text("via_key").notNull().default(" "),
    fileKey: text("file_key").notNull().default(" "),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.id] }),
    index("message_date").on(t.person, t.date, t.id),
    index("message_thread").on(t.person, t.thread),
    index("message_content").on(t.person, t.content),
  ],
);

/** No index but the key: an index on any of these columns would end in-page updates. */
export const stateTable = pgTable(
  "message_state",
  {
    person: person(),
    message: id("message"),
    folder: integer("folder").notNull(),
    /** Since when it is in the folder: trash and junk keep mail so long from then. */
    folderSince: instant("folder_since").notNull().defaultNow(),
    /** Bits of STATE_BIT in core/columns. */
    bits: smallint("bits").notNull().default(0),
    marker: smallint("marker").notNull().default(0),
    labels: integer("labels").array().notNull().default([]),
    flagStart: instant("flag_start"),
    flagDue: instant("flag_due"),
    flagNote: text("flag_note"),
    note: text("note"),
    /** The note as core/narrow folds it. */
    noteKey: text("note_key").notNull().default(" "),
    deferUntil: instant("defer_until"),
    backSince: instant("back_since"),
    awaitUntil: instant("await_until"),
    handUntil: instant("hand_until"),
    /** Never changes; 0 for the person's own mail. */
    sender: integer("sender").notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.person, t.message] })],
);

/**
 * The words of messages for searching, made behind the imports. Those of headers and of attachments' names have
 * weight A, those of the message itself D.
 */
export const wordsTable = pgTable(
  "message_words",
  { person: person(), message: id("message"), words: tsvector("words").notNull() },
  (t) => [primaryKey({ columns: [t.person, t.message] }), index("message_words_words").using("gin", t.words)],
);

/** Up to which message the words are there. */
export const wordIndexTable = pgTable("word_index", {
  person: bigint("person", { mode: "number" }).primaryKey(),
  through: bigint("through", { mode: "number" }).notNull().default(0),
});

/** Kept by statement triggers on message_state. */
export const countTable = pgTable(
  "folder_count",
  {
    person: person(),
    folder: integer("folder").notNull(),
    total: integer("total").notNull().default(0),
    unread: integer("unread").notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.person, t.folder] })],
);

/** Who mail has come from, but for the person. A state row names its sender by number, so that counting needs no look at the message. */
export const senderTable = pgTable(
  "sender",
  {
    person: person(),
    id: integer("id").notNull().generatedByDefaultAsIdentity(),
    /** What follows the last @ of the address; both in lower case. */
    domain: text("domain").notNull(),
    address: text("address").notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.id] }),
    uniqueIndex("sender_address").on(t.person, t.address),
    index("sender_domain").on(t.person, t.domain),
  ],
);

export const threadIdTable = pgTable(
  "thread_id",
  { person: person(), messageId: text("message_id").notNull(), thread: id("thread") },
  (t) => [primaryKey({ columns: [t.person, t.messageId] }), index("thread_id_thread").on(t.person, t.thread)],
);

export const threadSubjectTable = pgTable(
  "thread_subject",
  {
    person: person(),
    subject: text("subject").notNull(),
    /** Somebody who wrote or got it. */
    address: text("address").notNull(),
    thread: id("thread"),
    /** The date of the last message of that subject with them. */
    seen: instant("seen").notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.subject, t.address] }),
    index("thread_subject_thread").on(t.person, t.thread),
  ],
);
