import {
  bigint,
  bigserial,
  boolean,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  uniqueIndex,
} from "drizzle-orm/pg-core";
import { bytea, person, id, instant } from "./columns";

/** Long work, and what it is given. */

export const jobTable = pgTable(
  "job",
  {
    person: person(),
    id: bigserial("id", { mode: "number" }).notNull(),
    /** receiving, queued, running, done or failed */
    state: text("state").notNull(),
    name: text("name").notNull(),
    folder: integer("folder").notNull(),
    /** Whether rules look at what comes in. */
    isNews: boolean("is_news").notNull().default(false),
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
    /** When a piece of the file came last: an upload that was cut off is cleared away. */
    touchedAt: instant("touched_at").notNull().defaultNow(),
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

/**
 * What is to happen at a time, claimed by whichever job process looks first. Kept with what it is about by
 * store/timers, since no index may stand on what changes about messages.
 */
export const timerTable = pgTable(
  "timer",
  {
    person: person(),
    /** "wake": the message with that id comes back from being deferred; "await": nobody answered it; "hand": its pin goes. */
    kind: text("kind").notNull(),
    ref: id("ref"),
    at: instant("at").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.kind, t.ref] }), index("timer_at").on(t.at)],
);
