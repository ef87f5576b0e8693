import { bigint, index, integer, pgTable, primaryKey, text, uniqueIndex, uuid } from "drizzle-orm/pg-core";
import { sql } from "drizzle-orm";
import { bytea, instant, person } from "./columns";

/** Who may come in, and who is in. Of every secret only a digest is kept. */

/** By what address and password a person comes in. */
export const signInTable = pgTable(
  "sign_in",
  {
    person: person().primaryKey(),
    address: text("address").notNull(),
    /** Argon2id in PHC's form; null where the person has none yet, and comes in by a link. */
    password: text("password"),
    changedAt: instant("changed_at").notNull().defaultNow(),
    /** What codes are made from, sealed; null without them. */
    codeSecret: bytea("code_secret"),
    /** Since when a code is asked for; null until a first one was right. */
    codeSince: instant("code_since"),
    /** The step of the last code that was used: none is good twice. */
    codeStep: bigint("code_step", { mode: "number" }).notNull().default(0),
  },
  (t) => [uniqueIndex("sign_in_address").on(sql`lower(${t.address})`)],
);

/** Browsers and programs in which somebody is signed in. */
export const sessionTable = pgTable(
  "session",
  {
    person: person(),
    id: uuid("id").notNull().defaultRandom(),
    /** SHA-256 of the secret that the browser holds. */
    hash: bytea("hash").notNull(),
    /** One of SESSION_WAYS in core/api. */
    way: text("way").notNull(),
    /** What the browser calls itself. */
    agent: text("agent").notNull(),
    createdAt: instant("created_at").notNull().defaultNow(),
    seenAt: instant("seen_at").notNull().defaultNow(),
    /** When whoever sits there last showed who they are. */
    provedAt: instant("proved_at").notNull().defaultNow(),
    endsAt: instant("ends_at").notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.person, t.id] }),
    uniqueIndex("session_hash").on(t.person, t.hash),
    index("session_ends").on(t.endsAt),
  ],
);

/** Links that let somebody in once: the person themselves, or somebody whom they invite. */
export const onceTable = pgTable(
  "once_link",
  {
    /** Whose link it is; of an invitation, who invites. */
    person: person(),
    hash: bytea("hash").notNull(),
    /** "in" or "invitation" */
    kind: text("kind").notNull(),
    endsAt: instant("ends_at").notNull(),
  },
  (t) => [primaryKey({ columns: [t.person, t.hash] })],
);

/** Attempts to come in, by the digest of what was tried: before that is right, there is no person to keep them by. */
export const attemptTable = pgTable(
  "sign_in_attempt",
  {
    what: text("what").primaryKey(),
    count: integer("count").notNull(),
    at: instant("at").notNull(),
    /** Until then nothing more is tried. */
    until: instant("until").notNull(),
  },
  (t) => [index("sign_in_attempt_at").on(t.at)],
);

/** Codes on paper, for whoever has lost what makes codes. Each is good once. */
export const recoveryTable = pgTable("recovery_code", { person: person(), hash: bytea("hash").notNull() }, (t) => [
  primaryKey({ columns: [t.person, t.hash] }),
]);

/** Keys that a device keeps (W3C Web Authentication); of each only the public half is here. */
export const passkeyTable = pgTable(
  "passkey",
  {
    person: person(),
    /** The credential's id, base64url. */
    id: text("id").notNull(),
    publicKey: bytea("public_key").notNull(),
    /** How often it was used, as far as the device counts. */
    uses: bigint("uses", { mode: "number" }).notNull(),
    /** How the device can be reached, with spaces between. */
    transports: text("transports").notNull(),
    name: text("name").notNull(),
    createdAt: instant("created_at").notNull().defaultNow(),
    usedAt: instant("used_at"),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] })],
);

/** What a device is to sign, by its digest; whoever comes in by a passkey is nobody until then. */
export const challengeTable = pgTable(
  "challenge",
  {
    hash: bytea("hash").primaryKey(),
    /** Who makes a passkey; null for whoever comes in by one. */
    person: bigint("person", { mode: "number" }),
    endsAt: instant("ends_at").notNull(),
  },
  (t) => [index("challenge_ends").on(t.endsAt)],
);

/** What programs come in with that act for somebody. */
export const tokenTable = pgTable(
  "token",
  {
    person: person(),
    id: uuid("id").notNull().defaultRandom(),
    hash: bytea("hash").notNull(),
    name: text("name").notNull(),
    /** Of SCOPES in core/api, with spaces between. */
    scopes: text("scopes").notNull(),
    createdAt: instant("created_at").notNull().defaultNow(),
    usedAt: instant("used_at"),
    endsAt: instant("ends_at"),
  },
  (t) => [primaryKey({ columns: [t.person, t.id] }), uniqueIndex("token_hash").on(t.person, t.hash)],
);
