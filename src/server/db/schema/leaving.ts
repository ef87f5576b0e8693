import { index, integer, pgTable, primaryKey, smallint, text } from "drizzle-orm/pg-core";
import { id, instant, person } from "./columns";

/** Lists and senders that were asked to send nothing more. */
export const leavingTable = pgTable(
  "leaving",
  {
    person: person(),
    /** "list ridge.notes", "sender bo@larch.example" */
    source: text("source").notNull(),
    /** "click" or "letter" */
    how: text("how").notNull(),
    target: text("target").notNull(),
    account: integer("account").notNull(),
    /** One of LEAVING_STATES in core/change. */
    state: text("state").notNull(),
    /** When it was asked; while it waits, when it will be. */
    at: instant("at").notNull(),
    attempt: smallint("attempt").notNull().default(0),
    /** Why it could not be left, in their words. */
    said: text("said"),
  },
  (t) => [primaryKey({ columns: [t.person, t.source] }), index("leaving_at").on(t.at)],
);

/** Lists and senders whose mail stands aside from now on, or is not to be offered for it again. */
export const asideTable = pgTable(
  "aside",
  {
    person: person(),
    source: text("source").notNull(),
    /** One of ASIDE_STATES in core/change. */
    state: text("state").notNull(),
    at: instant("at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.person, t.source] })],
);

/** Messages whose service is told what they are. */
export const reportTable = pgTable(
  "report",
  {
    person: person(),
    message: id("message"),
    /** One of REPORTED_AS in core/change. */
    toldAs: text("told_as").notNull(),
    /** One of REPORT_STATES in core/change. */
    state: text("state").notNull(),
    /** When it was told; while it waits, when it will be. */
    at: instant("at").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.message] }), index("report_at").on(t.at)],
);
