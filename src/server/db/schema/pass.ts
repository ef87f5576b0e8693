import { bigint, index, integer, jsonb, pgTable, primaryKey, text, uuid } from "drizzle-orm/pg-core";
import { id, instant, person } from "./columns";

/** Walks through messages, one at a time: what they go through is fixed when they are begun. */

export const passTable = pgTable(
  "pass",
  {
    person: person(),
    id: uuid("id").notNull(),
    /** What it goes through, in words: a place, a batch, a selection. */
    name: text("name").notNull(),
    /** What it was begun on, in the stored form of core/narrow: what has come since is found by it. */
    narrow: jsonb("narrow").notNull(),
    order: text("order").notNull(),
    /** Ids of messages, in no order of their own. */
    queue: bigint("queue", { mode: "number" }).array().notNull(),
    /** The largest id of a message when it was begun: what has a larger one has come since. */
    through: bigint("through", { mode: "number" }).notNull(),
    /** Those passed over undecided. */
    skipped: bigint("skipped", { mode: "number" }).array().notNull().default([]),
    /** The message it was left at. */
    at: bigint("at", { mode: "number" }),
    /** Minutes the person wants to give it. */
    limit: integer("limit_minutes"),
    startedAt: instant("started_at").notNull().defaultNow(),
    endedAt: instant("ended_at"),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), index("pass_started").on(t.person, t.startedAt)],
);

/** Decisions made in a pass, written with the run that made them; of runs that are taken back they do not count. */
export const passDeedTable = pgTable(
  "pass_deed",
  {
    person: person(),
    pass: uuid("pass").notNull(),
    message: id("message"),
    run: uuid("run").notNull(),
    macro: text("macro").notNull(),
    /** How long the message was before the eyes, milliseconds. */
    ms: integer("ms").notNull(),
    at: instant("at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.person, t.pass, t.message, t.run] })],
);
