import { sql } from "drizzle-orm";
import {
  bigint,
  boolean,
  index,
  integer,
  pgTable,
  primaryKey,
  smallint,
  text,
  uniqueIndex,
  uuid,
} from "drizzle-orm/pg-core";
import { id, instant, person } from "./columns";

/** What figures are made from: how long mail waited, read from the ledger behind what is written. */

/** The stays of messages where mail waits, as core/pace reads them. */
export const paceStayTable = pgTable(
  "pace_stay",
  {
    person: person(),
    message: id("message"),
    /** From 0, in order. */
    nth: smallint("nth").notNull(),
    /** The folder. */
    place: integer("place").notNull(),
    /** The account the message came through; 0 for none. */
    account: integer("account").notNull(),
    /** Who sent it: a row of pace_source. */
    source: integer("source").notNull(),
    came: instant("came").notNull(),
    cameBy: uuid("came_by"),
    gone: instant("gone"),
    goneBy: uuid("gone_by"),
    byPerson: boolean("by_person").notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.message, t.nth] }),
    // With all that is told of senders: theirs lie all over the table, which is not to be read for them.
    index("pace_stay_source").on(t.person, t.place, t.source, t.came, t.gone, t.byPerson, t.account, t.message),
    index("pace_stay_came").on(t.person, t.place, t.came),
    index("pace_stay_open")
      .on(t.person, t.place, t.came)
      .where(sql`gone is null`),
  ],
);

/** Lists, and senders of what is not from one: "list " or "sender " and its name in lower case. */
export const paceSourceTable = pgTable(
  "pace_source",
  { person: person(), id: integer("id").notNull().generatedByDefaultAsIdentity(), source: text("source").notNull() },
  (t) => [primaryKey({ columns: [t.person, t.id] }), uniqueIndex("pace_source_source").on(t.person, t.source)],
);

/** How many stays there are of each kind: PACE in server/pace says what a kind counts, and what `at` is. */
export const paceCountTable = pgTable(
  "pace_count",
  {
    person: person(),
    kind: smallint("kind").notNull(),
    place: integer("place").notNull(),
    account: integer("account").notNull(),
    /** Since 1970-01-01, by the person's clock. */
    day: integer("day").notNull(),
    at: integer("at").notNull(),
    count: integer("count").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.kind, t.day, t.place, t.account, t.at] })],
);

/** How far the ledger was read, and in which zone its days were counted. */
export const paceMarkTable = pgTable("pace_mark", {
  person: bigint("person", { mode: "number" }).primaryKey(),
  /** null until what was there before has been counted. */
  through: bigint("through", { mode: "number" }),
  zone: text("zone").notNull(),
  /** What was decided before is not known. */
  since: instant("since").notNull().defaultNow(),
});
