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

export const METHODS = ["password", "token", "renewed"] as const;
const tokenSource = z.object({
  endpoint: z
    .url({ protocol: /^https?$/ })
    .max(2000)
    .describe("asked by POST (RFC 6749, section 6); https, or this machine's own address"),
  clientId: z.string().trim().min(1).max(500),
  scope: z.string().trim().max(2000).default(""),
});
export type TokenSource = z.infer<typeof tokenSource>;

const user = z.string().min(1).max(320).describe("the name the servers know the person by, mostly the address");
export const serversShape = z.object({
  imap: serverShape,
  smtp: serverShape,
  user,
  method: z
    .enum(METHODS)
    .describe(
      "token: SASL XOAUTH2 or OAUTHBEARER, whichever the server takes; renewed: the same with tokens an endpoint gives",
    ),
  tokens: tokenSource.optional().describe("where tokens are fetched, by the method renewed"),
});
export type Servers = z.infer<typeof serversShape>;

const name = z.string().trim().max(80);
const address = z.string().trim().min(3).max(320);
const secret = z.string().min(1).max(16_384).describe("the password, token or refresh token: never sent back");
const clientSecret = z.string().min(1).max(16_384).describe("for the token endpoint, where it asks for one");
/** Paths on the server. */
const without = z.array(z.string().min(1).max(1000)).max(10_000).describe("folders of the server that are left alone");
const since = time.nullable().describe("mail from before is left on the server; null for all of it");

export const newAccount = z
  .object({
    name: name.default(""),
    address,
    servers: serversShape,
    secret,
    clientSecret: clientSecret.optional(),
    since: since.default(null),
    without: without.default([]),
  })
  .strict();
export type NewAccount = z.infer<typeof newAccount>;
export const accountPatch = z
  .object({ name, servers: serversShape, secret, clientSecret, since, without, isPaused: z.boolean() })
  .partial()
  .strict();

/** Trying servers out, without keeping anything. */
export const testRequest = z.object({ servers: serversShape, secret, clientSecret: clientSecret.optional() }).strict();

/** Looking for the servers of an address. */
export const serversRequest = z.object({ address }).strict();
export const foundServers = z.object({
  servers: serversShape,
  how: z
    .enum(["named", "usual", "guessed"])
    .describe("by its domain's SRV names; hosts of the usual names answer; neither"),
});
export type FoundServers = z.infer<typeof foundServers>;

export const accountShape = z
  .object({
    id: shortId,
    kind: z.enum(["simulated", "internet"]),
    name: z.string(),
    address: z.string(),
    servers: serversShape.nullable(),
    since,
    without,
    isPaused: z.boolean(),
    askedAt: time.nullable().describe("when its server answered last"),
    looks: z.boolean().describe("whether somebody has asked for new mail, and what came is not known yet"),
    doing: z.string().nullable().describe("what it is at; null while nothing is to be done"),
    done: count,
    total: count,
    trouble: z.string().nullable().describe("why it cannot be asked, in words; null while it answers"),
    messages: count.describe("how many of its messages are here"),
    coming: count.describe("of how many only the headers are here yet"),
    waiting: count.describe("messages whose state is not on the server yet"),
    refused: count.describe("messages the server does not do what is wanted with"),
  })
  .meta({ id: "Account" });
export type AccountShape = z.infer<typeof accountShape>;

/** An account whose server cannot be asked now. */
export const troubleShape = accountShape.pick({ id: true, name: true, address: true }).extend({ said: z.string() });
export type TroubleShape = z.infer<typeof troubleShape>;

/** A folder of the server, and whether its mail is wanted here. */
export const remoteFolderShape = z.object({
  path: z.string().describe("as the server names it"),
  place: z.string().describe("as it is named here"),
  messages: count,
});
export type RemoteFolderShape = z.infer<typeof remoteFolderShape>;

export const testAnswer = z.object({
  folders: z.array(remoteFolderShape).describe("of the IMAP server, where it could be asked"),
  imap: z.object({ ok: z.boolean(), said: z.string() }),
  smtp: z.object({ ok: z.boolean(), said: z.string() }),
});
export type TestAnswer = z.infer<typeof testAnswer>;
