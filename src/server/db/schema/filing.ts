import { bigint, bigserial, boolean, integer, pgTable, primaryKey, smallint, text, uuid } from "drizzle-orm/pg-core";
import { id, instant, person } from "./columns";

/**
 * What a person's filing has taught (core/filing). All of it follows from the receipts: one for each message that
 * counts, with what it changed. What the ranker holds is kept now and then, and what was learned since beside it.
 */
export const filingTable = pgTable("filing", {
  person: bigint("person", { mode: "number" }).primaryKey(),
  /** Another one after everything was forgotten: what processes hold in memory is of an epoch. */
  epoch: uuid("epoch").notNull().defaultRandom(),
  /** Of the way of learning: of an older one nothing is kept. */
  method: smallint("method").notNull().default(0),
  /** What the ranker held after that entry of the journal. */
  kept: text("kept"),
  through: bigint("through", { mode: "number" }).notNull().default(0),
});

/** Messages whose place may not be what was learned of them; filled by statement triggers. */
export const filingDueTable = pgTable(
  "filing_due",
  {
    person: person(),
    n: bigserial("n", { mode: "number" }).notNull(),
    message: id("message"),
    /** It came into that folder as it came in: when it was filed, its date tells. */
    arrived: boolean("arrived").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.n] })],
);

export const filingReceiptTable = pgTable(
  "filing_receipt",
  {
    person: person(),
    message: id("message"),
    folder: integer("folder").notNull(),
    learnedAt: instant("learned_at").notNull(),
    /** A Receipt as JSON. */
    receipt: text("receipt").notNull(),
    /** Since when it does not count any more; put back there soon, it counts again as it did. */
    leftAt: instant("left_at"),
  },
  (t) => [primaryKey({ columns: [t.person, t.message, t.folder] })],
);

/** What was learned and unlearned since the ranker was last kept. */
export const filingJournalTable = pgTable(
  "filing_journal",
  {
    person: person(),
    n: bigserial("n", { mode: "number" }).notNull(),
    /** 1 for learned, -1 for unlearned. */
    by: smallint("by").notNull(),
    receipt: text("receipt").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.n] })],
);
