import { sql } from "drizzle-orm";
import { bigint, bigserial, index, jsonb, pgTable, primaryKey, text, uniqueIndex } from "drizzle-orm/pg-core";
import { instant, person } from "./columns";

/** What is planned. */

export const calendarTable = pgTable(
  "calendar",
  {
    person: person(),
    id: bigserial("id", { mode: "number" }).notNull(),
    name: text("name").notNull(),
    colour: text("colour").notNull(),
    /** What the address ends in under which other programs read it; null for none. */
    secret: text("secret"),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), uniqueIndex("calendar_secret").on(t.secret)],
);

export const eventTable = pgTable(
  "event",
  {
    person: person(),
    id: bigserial("id", { mode: "number" }).notNull(),
    /** The message it came from, which may be gone since. */
    message: bigint("message", { mode: "number" }),
    calendar: bigint("calendar", { mode: "number" }).notNull(),
    uid: text("uid").notNull(),
    /** For an instance that was changed: when its series would have it. */
    instead: text("instead"),
    task: bigint("task", { mode: "number" }),
    /** Between these it may take place; no end where it may always come again. */
    starts: instant("starts").notNull(),
    ends: instant("ends"),
    /** All of it, as core/change has it. */
    value: jsonb("value").notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.id] }),
    index("event_starts").on(t.person, t.starts),
    index("event_uid").on(t.person, t.uid),
    // Few, and looked for with every series that is shown.
    index("event_instead")
      .on(t.person, t.uid)
      .where(sql`instead is not null`),
    index("event_task").on(t.person, t.task),
    index("event_calendar").on(t.person, t.calendar),
  ],
);
