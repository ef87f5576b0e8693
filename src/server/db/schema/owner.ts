import { sql } from "drizzle-orm";
import {
  bigint,
  bigserial,
  boolean,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  smallint,
  text,
  uniqueIndex,
  uuid,
} from "drizzle-orm/pg-core";
import { person, instant, removal } from "./columns";

/** A person, and what is theirs beside mail: places, marks, macros, decks, batches. */

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
    /** In the stored form of core/macro: folders, labels, markers and macros by id. */
    steps: jsonb("steps").notNull(),
    position: integer("position").notNull().default(0),
    /** In its stored form, too. */
    settings: jsonb("settings").notNull().default({}),
    /** How often it was run, and when last. */
    uses: integer("uses").notNull().default(0),
    usedAt: instant("used_at"),
    /** Set instead of deleting, so that a deleted macro can be brought back with its keys. */
    deletedAt: instant("deleted_at"),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.id] }),
    uniqueIndex("macro_name")
      .on(t.person, sql`lower(${t.name})`)
      .where(sql`deleted_at is null`),
  ],
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

/** Saved narrowings with how they are shown and worked on. */
export const batchTable = pgTable(
  "batch",
  {
    person: person(),
    id: integer("id").notNull().generatedByDefaultAsIdentity(),
    name: text("name").notNull(),
    /** In the stored form of core/narrow: folders, labels and markers by id. */
    narrow: jsonb("narrow").notNull(),
    order: text("order").notNull(),
    group: text("group").notNull(),
    /** The deck it is worked on with; null for the one that is up. */
    deck: smallint("deck"),
    position: integer("position").notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), uniqueIndex("batch_name").on(t.person, sql`lower(${t.name})`)],
);

/** What was deleted by hand, as it was, so that it can be brought back under its own number. */
export const takenOutTable = pgTable(
  "taken_out",
  {
    person: person(),
    /** The table it is from. */
    kind: text("kind").notNull(),
    id: integer("id").notNull(),
    /** Its row. */
    row: jsonb("row").notNull(),
    at: instant("at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.person, t.kind, t.id] })],
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
