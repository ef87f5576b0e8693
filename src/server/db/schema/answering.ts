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
  serial,
  text,
  uniqueIndex,
  uuid,
} from "drizzle-orm/pg-core";
import { bytea, id, instant, person } from "./columns";

/** What is being written and is on its way. A draft is a message like any other: here is what of it can be edited. */

export const draftTable = pgTable(
  "draft",
  {
    person: person(),
    message: id("message"),
    /** One of LETTER_KINDS in core/letter. */
    kind: text("kind").notNull(),
    /** The message it answers or forwards; it may be gone since. */
    answers: bigint("answers", { mode: "number" }),
    /** [{name, address}], from one of the person's identities. */
    sender: jsonb("sender").notNull(),
    recipients: jsonb("recipients").notNull(),
    cc: jsonb("cc").notNull(),
    bcc: jsonb("bcc").notNull(),
    subject: text("subject").notNull(),
    /** In the shape of core/letter/doc. */
    body: jsonb("body").notNull(),
    /** Sent as plain text alone. */
    plain: boolean("plain").notNull().default(false),
    /** Never changes; with those of the thread before it. */
    messageId: text("message_id").notNull(),
    inReplyTo: text("in_reply_to"),
    references: text("thread_ids").array().notNull().default([]),
    /** The list the answered message came from. */
    list: text("list").notNull().default(""),
    /** When it is to be sent; null for once it was held. */
    sendAt: instant("send_at"),
    /** The folder the sent copy goes to; null for Sent. */
    sent: integer("sent"),
    sentToo: boolean("sent_too").notNull().default(false),
    /** Rises with every save: who saves on an older one is told. */
    version: integer("version").notNull().default(1),
    updatedAt: instant("updated_at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.person, t.message] })],
);

export const draftFileTable = pgTable(
  "draft_file",
  {
    person: person(),
    id: serial("id").notNull(),
    message: id("message"),
    name: text("name").notNull(),
    type: text("type").notNull(),
    data: bytea("data").notNull(),
    /** Of a picture in the quoted original: its Content-ID. */
    cid: text("cid"),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), index("draft_file_message").on(t.person, t.message)],
);

/** A message on its way, until it has gone. */
export const heldTable = pgTable(
  "held",
  {
    person: person(),
    message: id("message"),
    account: integer("account"),
    /** One of HELD_STATES in core/change; of what waits, "later" is to be tried again and "refused" is not. */
    state: text("state").notNull(),
    /** When it leaves, or is tried again. */
    at: instant("at").notNull(),
    /** Rises with every try; committed before the first byte leaves. */
    attempt: integer("attempt").notNull().default(0),
    /** Since when it was tried without success. */
    triedSince: instant("tried_since"),
    from: text("mail_from").notNull(),
    /** [{address, state, said}]: what became of it for each. */
    recipients: jsonb("recipients").notNull(),
    /** The last words of the server about it. */
    said: text("said"),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.message] }),
    index("held_due")
      .on(t.at)
      .where(sql`state in ('waiting', 'later', 'sending')`),
  ],
);

/** A run that waits at a message until its draft is sent. */
export const pauseTable = pgTable(
  "pause",
  {
    person: person(),
    draft: id("draft"),
    run: uuid("run").notNull(),
    message: id("message"),
    /** The step behind which it goes on. */
    at: text("at").notNull(),
    /** The macro as it was then, with those it calls, and what was answered, as JSON. */
    macro: text("macro").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.draft] }), index("pause_run").on(t.person, t.run)],
);

export const templateTable = pgTable(
  "template",
  {
    person: person(),
    id: serial("id").notNull(),
    name: text("name").notNull(),
    folder: text("folder").notNull().default(""),
    subject: text("subject").notNull().default(""),
    body: jsonb("body").notNull(),
    position: integer("position").notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), uniqueIndex("template_name").on(t.person, sql`lower(${t.name})`)],
);

/** Whom the person writes as. */
export const identityTable = pgTable(
  "identity",
  {
    person: person(),
    id: serial("id").notNull(),
    name: text("name").notNull(),
    address: text("address").notNull(),
    signature: text("signature").notNull().default(""),
    position: integer("position").notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] })],
);

/** Whom the person has written to, how often, and when last. Addresses are in lower case. */
export const writtenToTable = pgTable(
  "written_to",
  {
    person: person(),
    address: text("address").notNull(),
    name: text("name").notNull(),
    times: integer("times").notNull().default(1),
    last: instant("last").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.address] })],
);

/** What the simulated service was given to deliver: its own count of what it received. */
export const simulatedSentTable = pgTable(
  "simulated_sent",
  {
    person: person(),
    account: integer("account").notNull(),
    id: bigserial("id", { mode: "number" }).notNull(),
    from: text("mail_from").notNull(),
    recipient: text("recipient").notNull(),
    messageId: text("message_id"),
    raw: bytea("raw").notNull(),
    at: instant("at").notNull().defaultNow(),
    /** What comes back from there: an answer, a delivery report, a note that nobody is in; null for nothing. */
    comes: text("comes"),
    comesAt: instant("comes_at"),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.account, t.id] }),
    index("simulated_sent_comes")
      .on(t.comesAt)
      .where(sql`comes_at is not null`),
  ],
);
