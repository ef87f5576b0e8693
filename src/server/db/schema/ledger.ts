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
import { person, instant } from "./columns";

/** What was done, and the things that were made by it. */

/** One row for each write of a person's mail, in order. "arrival" rows tell windows of imported messages. */
export const ledgerTable = pgTable(
  "ledger",
  {
    person: person(),
    seq: bigint("seq", { mode: "number" }).notNull(),
    run: uuid("run").notNull(),
    /** run, undo, redo or arrival */
    kind: text("kind").notNull(),
    /** Who wrote: one of ACTORS in core/ledger. */
    actor: text("actor").notNull().default("person"),
    /** Which rule, account or timer made it; null for the person. */
    cause: text("cause"),
    /** One of HANDS in core/ledger, where the person has said so. */
    hand: text("hand"),
    /** For an undo or redo: the run it is about; for a run that goes on behind a draft, the one that waited. */
    of: uuid("of"),
    at: instant("at").notNull(),
    macro: integer("macro"),
    name: text("name").notNull(),
    steps: jsonb("steps").notNull(),
    /** What it was on, in words: a subject, or how many from where. */
    about: text("about").notNull().default(""),
    messages: integer("messages").notNull(),
    changed: integer("changed").notNull(),
    state: text("state").notNull(),
    /** What was written, in the stored form of core/change. */
    change: jsonb("change").notNull(),
    /** For a run: what of it still stands, once part was taken back. */
    standing: jsonb("standing"),
    /** The first of what was left alone, with the reasons, and how much it was altogether. */
    skipped: jsonb("skipped").notNull(),
    skippedCount: integer("skipped_count").notNull().default(0),
    /** How many of the cells and things it wrote still stand and could be taken back. */
    restorable: integer("restorable").notNull().default(0),
    /** The smallest and largest id of the messages it changed: where to look for one message's history. */
    lowest: bigint("lowest", { mode: "number" }),
    highest: bigint("highest", { mode: "number" }),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.seq] }),
    uniqueIndex("ledger_run").on(t.person, t.run),
    index("ledger_of")
      .on(t.person, t.of)
      .where(sql`of is not null`),
    index("ledger_hand")
      .on(t.person, t.at)
      .where(sql`actor = 'person' and kind = 'run'`),
    index("ledger_rule")
      .on(t.person, t.cause, t.at)
      .where(sql`actor = 'rule'`),
  ],
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
    pressing: boolean("pressing").notNull().default(false),
    /** For somebody else. */
    waiting: boolean("waiting").notNull().default(false),
    /** How often it comes again, as core/agenda reads it. */
    repeat: text("repeat"),
    createdAt: instant("created_at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), index("task_message").on(t.person, t.message)],
);

/** Addresses are in lower case. */
export const contactTable = pgTable(
  "contact",
  {
    person: person(),
    address: text("address").notNull(),
    name: text("name").notNull(),
    note: text("note").notNull().default(""),
  },
  (t) => [primaryKey({ columns: [t.person, t.address] })],
);

/** People who are written to together. */
export const contactGroupTable = pgTable(
  "contact_group",
  {
    person: person(),
    id: serial("id").notNull(),
    name: text("name").notNull(),
    /** Addresses in lower case, as they stand among the contacts or not. */
    members: text("members").array().notNull().default([]),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.id] }),
    uniqueIndex("contact_group_name").on(t.person, sql`lower(${t.name})`),
  ],
);

export const blockedTable = pgTable("blocked", { person: person(), address: text("address").notNull() }, (t) => [
  primaryKey({ columns: [t.person, t.address] }),
]);
