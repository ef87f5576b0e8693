import { sql } from "drizzle-orm";
import {
  bigint,
  bigserial,
  boolean,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  real,
  serial,
  text,
  uniqueIndex,
} from "drizzle-orm/pg-core";
import { bytea, id, instant, person } from "./columns";

/** Where mail comes from and goes to: the services behind a person's addresses. */

export const accountTable = pgTable(
  "account",
  {
    person: person(),
    id: serial("id").notNull(),
    /** "simulated": the service that ships with the app; "internet": IMAP and SMTP. */
    kind: text("kind").notNull(),
    /** What the person calls it. */
    name: text("name").notNull().default(""),
    /** The address whose mail it is. */
    address: text("address").notNull().default(""),
    /** Of kind "internet": Servers of core/api. */
    servers: jsonb("servers"),
    /** The password or token, sealed with a key that is not in the database. */
    secret: bytea("secret"),
    /** Mail from before is left on the server; null for all of it. */
    since: instant("since"),
    /** Folders of the server that are left alone, by their paths there. */
    without: text("without").array().notNull().default([]),
    isPaused: boolean("is_paused").notNull().default(false),
    /** When the service answered last. */
    askedAt: instant("asked_at"),
    /** What it is at, in words; null while nothing is to be done. */
    doing: text("doing"),
    /** How much of that is done, and of how much. */
    done: integer("done").notNull().default(0),
    total: integer("total").notNull().default(0),
    /** When the person asked for new mail. */
    lookAt: instant("look_at"),
    /** When the service was last begun to be asked what changed, and told it. */
    lookedAt: instant("looked_at"),
    /** The service's mail up to here has been taken in. */
    mark: bigint("mark", { mode: "number" }).notNull().default(0),
    /** Why the service cannot be asked now; null while it answers. */
    trouble: text("trouble"),
    /** When it is asked again after trouble. */
    retryAt: instant("retry_at").notNull().defaultNow(),
    /** How often it could not be asked in a row. */
    failures: integer("failures").notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] })],
);

/** How the simulated service behaves, and what it holds. It is on the other side: only the gateway looks in here. */
export const simulatorTable = pgTable(
  "simulator",
  {
    person: person(),
    account: integer("account").notNull(),
    /** Messages an hour that come by themselves. */
    rate: real("rate").notNull(),
    /** One of SIMULATOR_MODES in core/api. */
    mode: text("mode").notNull().default("well"),
    /** Of what is sent, so much is answered; between 0 and 1. */
    answers: real("answers").notNull().default(0.6),
    /** And so much cannot be delivered, which is reported. */
    bounces: real("bounces").notNull().default(0.03),
    /** Seconds after which an answer comes. */
    answerAfter: integer("answer_after").notNull().default(180),
    /** Whether it takes addresses outside ASCII (RFC 6531). */
    utf8: boolean("utf8").notNull().default(true),
    /** How many messages have been written so far: the next one follows from it. */
    made: integer("made").notNull().default(0),
    /** How many are to come at once, whatever the rate. */
    asked: integer("asked").notNull().default(0),
    /** When the next one comes by itself. */
    nextAt: instant("next_at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.person, t.account] }), index("simulator_next").on(t.nextAt)],
);

/** The service's own mailbox. */
export const simulatedMailTable = pgTable(
  "simulated_mail",
  {
    person: person(),
    account: integer("account").notNull(),
    uid: bigserial("uid", { mode: "number" }).notNull(),
    raw: bytea("raw").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.account, t.uid] })],
);

/** What the service was asked to leave, by one request each. */
export const simulatedLeftTable = pgTable(
  "simulated_left",
  {
    person: person(),
    account: integer("account").notNull(),
    n: bigserial("n", { mode: "number" }).notNull(),
    target: text("target").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.account, t.n] })],
);

/** What the service was told about messages. */
export const simulatedReportTable = pgTable(
  "simulated_report",
  {
    person: person(),
    account: integer("account").notNull(),
    n: bigserial("n", { mode: "number" }).notNull(),
    messageId: text("message_id"),
    toldAs: text("told_as").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.account, t.n] })],
);

/** A mailbox of an account's server, and the place of the person's that it is. */
export const mailboxTable = pgTable(
  "mailbox",
  {
    person: person(),
    id: serial("id").notNull(),
    account: integer("account").notNull(),
    /** Its name on the server. */
    path: text("path").notNull(),
    folder: integer("folder").notNull(),
    /** UIDVALIDITY, the next UID, HIGHESTMODSEQ and the number of messages (RFC 9051, RFC 7162), as of what has been taken in. */
    validity: bigint("validity", { mode: "number" }).notNull().default(0),
    nextUid: bigint("next_uid", { mode: "number" }).notNull().default(0),
    modseq: bigint("modseq", { mode: "number" }).notNull().default(0),
    messages: integer("messages").notNull().default(0),
    /** Whether all that the person wants of it is here. */
    isWhole: boolean("is_whole").notNull().default(false),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), uniqueIndex("mailbox_path").on(t.person, t.account, t.path)],
);

/** A draft as it was put on the server last. */
export const filedDraftTable = pgTable(
  "filed_draft",
  {
    person: person(),
    message: id("message"),
    account: integer("account").notNull(),
    /** The source that was put there. */
    content: bigint("content", { mode: "number" }).notNull(),
    messageId: text("message_id").notNull(),
    uid: bigint("uid", { mode: "number" }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.message] })],
);

/** Where a message is on a server, and what both sides agreed on last: the base. */
export const placementTable = pgTable(
  "placement",
  {
    person: person(),
    message: id("message"),
    account: integer("account").notNull(),
    mailbox: integer("mailbox").notNull(),
    /** The place of the person's that the mailbox was. */
    folder: integer("folder").notNull(),
    /** null while it is not known where in the mailbox it is. */
    uid: bigint("uid", { mode: "number" }),
    read: boolean("read").notNull(),
    flagged: boolean("flagged").notNull(),
    answered: boolean("answered").notNull(),
    /** Keywords of labels and of the marker. */
    words: text("words").array().notNull().default([]),
    /** Why the server does not do what is wanted with it, in its words. */
    refused: text("refused"),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.message] }),
    uniqueIndex("placement_uid").on(t.person, t.mailbox, t.uid),
    index("placement_loose")
      .on(t.person, t.account)
      .where(sql`uid is null`),
  ],
);

/**
 * Sources that are on a server still: of their messages only the headers are here. Which of them to ask for next is
 * read by the index: what somebody waits for, then the newest.
 */
export const comingTable = pgTable(
  "coming",
  {
    person: person(),
    content: id("content"),
    /** The account whose server has it; 0 where none can be asked any more. */
    account: integer("account").notNull(),
    /** When its message was written. */
    date: instant("date").notNull(),
    /** When somebody wanted to read it. */
    wantedAt: instant("wanted_at"),
    /** When the server is asked for it again, where it did not give it. */
    retryAt: instant("retry_at").notNull().defaultNow(),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.content] }),
    index("coming_next").on(t.person, t.account, t.wantedAt.desc().nullsLast(), t.date.desc()),
  ],
);

/** Messages with a placement that may differ from their base; noted by statement triggers on message_state. */
export const dueTable = pgTable(
  "due",
  {
    person: person(),
    message: id("message"),
    /** Counts the writes, so that one during a push is not taken for pushed. */
    writes: integer("writes").notNull().default(1),
  },
  (t) => [primaryKey({ columns: [t.person, t.message] })],
);
