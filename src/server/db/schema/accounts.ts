import {
  bigint,
  bigserial,
  boolean,
  index,
  integer,
  pgTable,
  primaryKey,
  real,
  serial,
  text,
} from "drizzle-orm/pg-core";
import { bytea, instant, person } from "./columns";

/** Where mail comes from and goes to: the services behind a person's addresses. */

export const accountTable = pgTable(
  "account",
  {
    person: person(),
    id: serial("id").notNull(),
    /** "simulated": the service that ships with the app. */
    kind: text("kind").notNull(),
    /** The service's mail up to here has been taken in. */
    mark: bigint("mark", { mode: "number" }).notNull().default(0),
    /** Why the service cannot be asked now; null while it answers. */
    trouble: text("trouble"),
    /** When it is asked again after trouble. */
    retryAt: instant("retry_at").notNull().defaultNow(),
    /** How often it could not be asked in a row. */
    failures: integer("failures").notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] })],
);

/** How the simulated service behaves, and what it holds. It is on the other side: only the gateway looks in here. */
export const simulatorTable = pgTable(
  "simulator",
  {
    person: person(),
    account: integer("account").notNull(),
    /** Messages an hour that come by themselves. */
    rate: real("rate").notNull(),
    /** One of SIMULATOR_MODES in core/api. */
    mode: text("mode").notNull().default("well"),
    /** Of what is sent, so much is answered; between 0 and 1. */
    answers: real("answers").notNull().default(0.6),
    /** And so much cannot be delivered, which is reported. */
    bounces: real("bounces").notNull().default(0.03),
    /** Seconds after which an answer comes. */
    answerAfter: integer("answer_after").notNull().default(180),
    /** Whether it takes addresses outside ASCII (RFC 6531). */
    utf8: boolean("utf8").notNull().default(true),
    /** How many messages have been written so far: the next one follows from it. */
    made: integer("made").notNull().default(0),
    /** How many are to come at once, whatever the rate. */
    asked: integer("asked").notNull().default(0),
    /** When the next one comes by itself. */
    nextAt: instant("next_at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.person, t.account] }), index("simulator_next").on(t.nextAt)],
);

/** The service's own mailbox. */
export const simulatedMailTable = pgTable(
  "simulated_mail",
  {
    person: person(),
    account: integer("account").notNull(),
    uid: bigserial("uid", { mode: "number" }).notNull(),
    raw: bytea("raw").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.account, t.uid] })],
);
