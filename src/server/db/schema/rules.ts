import { boolean, index, integer, jsonb, pgTable, primaryKey, text } from "drizzle-orm/pg-core";
import { id, instant, person } from "./columns";

/** What is done with mail that comes in, or goes out, without anybody there: a condition and a macro, in order. */
export const ruleTable = pgTable(
  "rule",
  {
    person: person(),
    id: integer("id").notNull().generatedByDefaultAsIdentity(),
    /** In the stored form of core/narrow. */
    narrow: jsonb("narrow").notNull(),
    /** null where a rule on sending does nothing but what it says by itself. */
    macro: integer("macro"),
    isOn: boolean("is_on").notNull().default(true),
    /** Rules after it leave alone what it was for. */
    stop: boolean("stop").notNull().default(false),
    position: integer("position").notNull().default(0),
    /** How often in a row it could not be done, and why last. */
    failures: integer("failures").notNull().default(0),
    trouble: text("trouble"),
    /** It can be brought back, as it was and where it stood. */
    deletedAt: instant("deleted_at"),
    /** The list of senders it is for; null for a rule that is for all who meet its condition. */
    list: text("list"),
    /** "arrival" or "sending" */
    time: text("time").notNull().default("arrival"),
    /** On sending: to more people than so many, to somebody outside; how long it is held, and what is asked before. */
    moreThan: integer("more_than"),
    outside: boolean("outside").notNull().default(false),
    holdMinutes: integer("hold_minutes"),
    look: text("look"),
    /** What a person wrote beside it, or a script said. */
    remark: text("remark"),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] })],
);

/** Lists of senders that rules are for: they grow by a key. */
export const listedTable = pgTable(
  "listed",
  {
    person: person(),
    /** The list's name in lower case. */
    list: text("list").notNull(),
    /** In lower case. */
    address: text("address").notNull(),
    at: instant("at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.person, t.list, t.address] })],
);

/** Hours of the week in which mail is let in; outside them it waits. */
export const hoursTable = pgTable(
  "hours",
  {
    person: person(),
    id: integer("id").notNull().generatedByDefaultAsIdentity(),
    /** Which mail: in the stored form of core/narrow. */
    narrow: jsonb("narrow").notNull(),
    /** Which of it is let in at any time, in the same form; null for none. */
    through: jsonb("through"),
    /** A Week of core/rule. */
    week: jsonb("week").notNull(),
    isOn: boolean("is_on").notNull().default(true),
    deletedAt: instant("deleted_at"),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] })],
);

/** Messages that wait for their hours: those that are deferred until then, and by nobody else since. */
export const hoursHeldTable = pgTable(
  "hours_held",
  {
    person: person(),
    message: id("message"),
    until: instant("until").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.message] }), index("hours_held_until").on(t.person, t.until)],
);

/** How often mail that a condition means was put into a folder by hand; as far as habit_mark has read the ledger. */
export const habitTable = pgTable(
  "habit",
  {
    person: person(),
    narrow: text("narrow").notNull(),
    folder: integer("folder").notNull(),
    /** 0 where no macro of the person's did it. */
    macro: integer("macro").notNull(),
    messages: integer("messages").notNull(),
    /** The last message it was. */
    last: id("last"),
  },
  (t) => [primaryKey({ columns: [t.person, t.narrow, t.folder, t.macro] })],
);

/** Macros that were run on the same mail one after another, by their ids with blanks between, and how often. */
export const habitSequenceTable = pgTable(
  "habit_sequence",
  { person: person(), macros: text("macros").notNull(), times: integer("times").notNull() },
  (t) => [primaryKey({ columns: [t.person, t.macros] })],
);

/** How far the ledger was read for what recurs. */
export const habitMarkTable = pgTable("habit_mark", { person: person(), through: id("through") }, (t) => [
  primaryKey({ columns: [t.person] }),
]);

/** What recurs and is not to be offered any more: a condition, or "macros 3 7". */
export const habitDeclinedTable = pgTable(
  "habit_declined",
  { person: person(), what: text("what").notNull(), at: instant("at").notNull().defaultNow() },
  (t) => [primaryKey({ columns: [t.person, t.what] })],
);
