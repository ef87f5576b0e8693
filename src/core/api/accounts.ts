import * as z from "zod";
import { count, shortId, time } from "./parts";

/** Accounts with mail servers: how they are reached, and how they are. */

export const SECURITY = ["tls", "starttls", "none"] as const;
const host = z
  .string()
  .trim()
  .min(1)
  .max(253)
  .regex(/^[A-Za-z0-9.:_-]+$/, "a host name or an address");
const serverShape = z.object({
  host,
  port: z.number().int().min(1).max(65_535),
  security: z.enum(SECURITY).describe("none only for this machine's own loopback address"),
});
export type ServerShape = z.infer<typeof serverShape>;

const user = z.string().min(1).max(320).describe("the name the servers know the person by, mostly the address");
export const serversShape = z.object({
  imap: serverShape,
  smtp: serverShape,
  user,
  method: z.enum(["password", "token"]).describe("token: SASL XOAUTH2 or OAUTHBEARER, whichever the server takes"),
});
export type Servers = z.infer<typeof serversShape>;

const name = z.string().trim().max(80);
const address = z.string().trim().min(3).max(320);
const secret = z.string().min(1).max(16_384).describe("the password or token: never sent back");
const since = time.nullable().describe("mail from before is left on the server; null for all of it");

export const newAccount = z
  .object({ name: name.default(""), address, servers: serversShape, secret, since: since.default(null) })
  .strict();
export type NewAccount = z.infer<typeof newAccount>;
export const accountPatch = z
  .object({ name, servers: serversShape, secret, since, isPaused: z.boolean() })
  .partial()
  .strict();

/** Trying servers out, without keeping anything. */
export const testRequest = z.object({ servers: serversShape, secret }).strict();

/** Looking for the servers of an address. */
export const serversRequest = z.object({ address }).strict();
export const foundServers = z.object({
  servers: serversShape,
  how: z
    .enum(["named", "usual", "guessed"])
    .describe("by its domain's SRV names; hosts of the usual names answer; neither"),
});
export type FoundServers = z.infer<typeof foundServers>;

export const accountShape = z.object({
  id: shortId,
  kind: z.enum(["simulated", "internet"]),
  name: z.string(),
  address: z.string(),
  servers: serversShape.nullable(),
  since,
  isPaused: z.boolean(),
  askedAt: time.nullable().describe("when its server answered last"),
  doing: z.string().nullable().describe("what it is at; null while nothing is to be done"),
  done: count,
  total: count,
  trouble: z.string().nullable().describe("why it cannot be asked, in words; null while it answers"),
  messages: count.describe("how many of its messages are here"),
  waiting: count.describe("messages whose state is not on the server yet"),
  refused: count.describe("messages the server does not do what is wanted with"),
});
export type AccountShape = z.infer<typeof accountShape>;

/** An account whose server cannot be asked now. */
export const troubleShape = accountShape.pick({ id: true, name: true, address: true }).extend({ said: z.string() });
export type TroubleShape = z.infer<typeof troubleShape>;

export const testAnswer = z.object({
  imap: z.object({ ok: z.boolean(), said: z.string() }),
  smtp: z.object({ ok: z.boolean(), said: z.string() }),
});
export type TestAnswer = z.infer<typeof testAnswer>;
