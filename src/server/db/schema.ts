import { sql } from "drizzle-orm";
import {
  bigint,
  bigserial,
  boolean,
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  smallint,
  text,
  timestamp,
  uniqueIndex,
  uuid,
} from "drizzle-orm/pg-core";

/**
 * The person leads every key. What changes about a message (message_state) is apart from what does not
 * (message) and from the source (content): a run touches narrow rows that no search index knows of.
 */
const tsvector = customType<{ data: string }>({ dataType: () => "tsvector" });
const bytea = customType<{ data: Uint8Array }>({ dataType: () => "bytea" });
const person = () => bigint("person", { mode: "number" }).notNull();
const id = (name = "id") => bigint(name, { mode: "number" }).notNull();
const instant = (name: string) => timestamp(name, { withTimezone: true, precision: 3, mode: "date" });

/** What was removed stays as a row, with the run that removed it: taking that run back brings it back. */
const removal = () => ({ removed: boolean("removed").notNull().default(false), removedBy: uuid("removed_by") });

export const personTable = pgTable("person", {
  id: bigserial("id", { mode: "number" }).primaryKey(),
  /** Tells this mailbox from any other that was ever at the same address: what a browser keeps is kept by it. */
  token: uuid("token").notNull().defaultRandom(),
  name: text("name").notNull(),
  address: text("address").notNull(),
  /** IANA name; days begin and "tomorrow 9" is in it. */
  zone: text("zone").notNull(),
  settings: jsonb("settings").notNull().default({}),
  /** The number of the last write. Its row lock puts one person's writers in line. */
  seq: bigint("seq", { mode: "number" }).notNull().default(0),
  createdAt: instant("created_at").notNull().defaultNow(),
});

export const folderTable = pgTable(
  "folder",
  {
    person: person(),
    id: integer("id").notNull().generatedByDefaultAsIdentity(),
    path: text("path").notNull(),
    role: text("role"),
    ...removal(),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.id] }),
    uniqueIndex("folder_path")
      .on(t.person, sql`lower(${t.path})`)
      .where(sql`not removed`),
    uniqueIndex("folder_role").on(t.person, t.role),
  ],
);

export const labelTable = pgTable(
  "label",
  {
    person: person(),
    id: integer("id").notNull().generatedByDefaultAsIdentity(),
    name: text("name").notNull(),
    colour: text("colour").notNull(),
    ...removal(),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.id] }),
    uniqueIndex("label_name")
      .on(t.person, sql`lower(${t.name})`)
      .where(sql`not removed`),
  ],
);

export const markerTable = pgTable(
  "marker",
  {
    person: person(),
    /** 1 to 8, so that a message holds its marker in two bytes. */
    id: smallint("id").notNull(),
    letter: text("letter").notNull(),
    colour: text("colour").notNull(),
    meaning: text("meaning").notNull(),
    position: smallint("position").notNull(),
    /** Whether setting and stepping through markers offers it. */
    used: boolean("used").notNull().default(true),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), uniqueIndex("marker_letter").on(t.person, t.letter)],
);

export const macroTable = pgTable(
  "macro",
  {
    person: person(),
    id: integer("id").notNull().generatedByDefaultAsIdentity(),
    name: text("name").notNull(),
    colour: text("colour").notNull(),
    steps: jsonb("steps").notNull(),
    position: integer("position").notNull().default(0),
    settings: jsonb("settings").notNull().default({}),
    /** How often it was run, and when last. */
    uses: integer("uses").notNull().default(0),
    usedAt: instant("used_at"),
    /** Set instead of deleting, so that a deleted macro can be brought back with its keys. */
    deletedAt: instant("deleted_at"),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] })],
);

export const deckTable = pgTable(
  "deck",
  {
    person: person(),
    number: smallint("number").notNull(),
    name: text("name").notNull(),
    pads: jsonb("pads").notNull(),
    extra: jsonb("extra").notNull().default([]),
    swipes: jsonb("swipes").notNull().default({}),
  },
  (t) => [primaryKey({ columns: [t.person, t.number] })],
);

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
    awaitUntil: instant("await_until"),
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

/** Saved narrowings with how they are shown and worked on. */
export const batchTable = pgTable(
  "batch",
  {
    person: person(),
    id: integer("id").notNull().generatedByDefaultAsIdentity(),
    name: text("name").notNull(),
    narrow: text("narrow").notNull(),
    order: text("order").notNull(),
    group: text("group").notNull(),
    /** The deck it is worked on with; null for the one that is up. */
    deck: smallint("deck"),
    position: integer("position").notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), uniqueIndex("batch_name").on(t.person, sql`lower(${t.name})`)],
);

/** Conditions that were typed, so that they can be had again. */
export const narrowedTable = pgTable(
  "narrowed",
  {
    person: person(),
    text: text("text").notNull(),
    uses: integer("uses").notNull().default(1),
    usedAt: instant("used_at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.person, t.text] })],
);

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

export const threadIdTable = pgTable(
  "thread_id",
  { person: person(), messageId: text("message_id").notNull(), thread: id("thread") },
  (t) => [primaryKey({ columns: [t.person, t.messageId] }), index("thread_id_thread").on(t.person, t.thread)],
);

export const threadSubjectTable = pgTable(
  "thread_subject",
  { person: person(), subject: text("subject").notNull(), thread: id("thread") },
  (t) => [primaryKey({ columns: [t.person, t.subject] }), index("thread_subject_thread").on(t.person, t.thread)],
);

/** One row for each write of a person's mail, in order. "arrival" rows tell windows of imported messages. */
export const ledgerTable = pgTable(
  "ledger",
  {
    person: person(),
    seq: bigint("seq", { mode: "number" }).notNull(),
    run: uuid("run").notNull(),
    /** run, undo, redo or arrival */
    kind: text("kind").notNull(),
    /** For an undo or redo: the run it is about. */
    of: uuid("of"),
    at: instant("at").notNull(),
    macro: integer("macro"),
    name: text("name").notNull(),
    steps: jsonb("steps").notNull(),
    messages: integer("messages").notNull(),
    changed: integer("changed").notNull(),
    state: text("state").notNull(),
    /** What was written, in the stored form of core/change. */
    change: jsonb("change").notNull(),
    /** For a run: what of it still stands, once part was taken back. */
    standing: jsonb("standing"),
    skipped: jsonb("skipped").notNull(),
    /** The smallest and largest id of the messages it changed: where to look for one message's history. */
    lowest: bigint("lowest", { mode: "number" }),
    highest: bigint("highest", { mode: "number" }),
  },
  (t) => [primaryKey({ columns: [t.person, t.seq] }), uniqueIndex("ledger_run").on(t.person, t.run)],
);

export const taskTable = pgTable(
  "task",
  {
    person: person(),
    id: bigserial("id", { mode: "number" }).notNull(),
    /** The message it was made from, which may be gone since. */
    message: bigint("message", { mode: "number" }),
    title: text("title").notNull(),
    due: instant("due"),
    /** Minutes. */
    estimate: integer("estimate"),
    about: text("about").notNull(),
    done: boolean("done").notNull().default(false),
    createdAt: instant("created_at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), index("task_message").on(t.person, t.message)],
);

/** Addresses are in lower case. */
export const contactTable = pgTable(
  "contact",
  { person: person(), address: text("address").notNull(), name: text("name").notNull() },
  (t) => [primaryKey({ columns: [t.person, t.address] })],
);

export const blockedTable = pgTable("blocked", { person: person(), address: text("address").notNull() }, (t) => [
  primaryKey({ columns: [t.person, t.address] }),
]);

export const jobTable = pgTable(
  "job",
  {
    person: person(),
    id: bigserial("id", { mode: "number" }).notNull(),
    /** receiving, queued, running, done or failed */
    state: text("state").notNull(),
    name: text("name").notNull(),
    folder: integer("folder").notNull(),
    /** Bytes of the file. */
    total: bigint("total", { mode: "number" }).notNull().default(0),
    /** Bytes taken in; a job that stopped goes on from here. */
    position: bigint("position", { mode: "number" }).notNull().default(0),
    added: integer("added").notNull().default(0),
    doubles: integer("doubles").notNull().default(0),
    /** [{offset, reason}], what could not come in. */
    problems: jsonb("problems").notNull().default([]),
    error: text("error"),
    createdAt: instant("created_at").notNull().defaultNow(),
    finishedAt: instant("finished_at"),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), uniqueIndex("job_id").on(t.id)],
);

/** The file of an import, until it is done. */
export const chunkTable = pgTable(
  "job_chunk",
  { job: id("job"), position: bigint("position", { mode: "number" }).notNull(), data: bytea("data").notNull() },
  (t) => [primaryKey({ columns: [t.job, t.position] })],
);
