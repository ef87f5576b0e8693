import { createHash } from "node:crypto";
import type { Servers, TokenSource } from "@/core/api";
import * as z from "zod";
import type { Connection } from "../db";
import { aboutSecret, type ServerAccount } from "./accounts";
import { GatewayAway } from "./gateway";
import { isLoopback } from "./internet";
import { seal, unseal } from "./secret";

/** What signs in: the secret itself, or an access token that an endpoint gives for it (RFC 6749, section 6). */

/** What a person gives, and what is sealed. */
export interface Held {
  /** The password, the access token, or the refresh token. */
  readonly secret: string;
  /** Of clients the endpoint knows by a secret of their own. */
  readonly clientSecret: string | null;
}

interface Fetched {
  readonly access: string;
  /** How long it opens anything, milliseconds. */
  readonly lifeMs: number;
  /** What is to be held from now on: endpoints may give another refresh token each time. */
  readonly held: Held;
}

const ASK_MS = 20_000;
/** RFC 6749 leaves it out where it is said elsewhere; an hour is what endpoints mean by that. */
const USUAL_LIFE_S = 3600;
/** A token that ends in the middle of a round is fetched anew before it. */
const SPARE_MS = 60_000;

const answerShape = z.object({
  access_token: z.string().min(1),
  expires_in: z.coerce.number().positive().catch(USUAL_LIFE_S),
  refresh_token: z.string().min(1).optional(),
});
const refusalShape = z.object({ error: z.string(), error_description: z.string().optional() });

const asJson = (text: string): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
};

/** Who could read a refresh token on the way could read all mail: only this machine's own address goes without TLS. */
export const isSafe = ({ endpoint }: TokenSource): boolean => {
  const { protocol, hostname } = new URL(endpoint);
  return protocol === "https:" || (protocol === "http:" && isLoopback(hostname));
};

/** @throws GatewayAway in the endpoint's words */
export async function fetchToken(source: TokenSource, held: Held): Promise<Fetched> {
  const { endpoint, clientId, scope } = source;
  const there = `The token endpoint ${new URL(endpoint).host}`;
  if (!isSafe(source)) throw new GatewayAway(`${there} is asked by https only.`);
  const body = new URLSearchParams({ grant_type: "refresh_token", refresh_token: held.secret, client_id: clientId });
  if (held.clientSecret !== null) body.set("client_secret", held.clientSecret);
  if (scope !== "") body.set("scope", scope);
  const headers = { accept: "application/json" };
  let answer: { readonly ok: boolean; readonly text: string };
  try {
    // What is meant for one address is not carried on to another.
    const asked = { method: "POST", body, headers, redirect: "error", signal: AbortSignal.timeout(ASK_MS) } as const;
    const response = await fetch(endpoint, asked);
    answer = { ok: response.ok, text: await response.text() };
  } catch (error) {
    throw new GatewayAway(`${there} does not answer.`, { cause: error });
  }
  const given = answerShape.safeParse(asJson(answer.text));
  if (answer.ok && given.success) {
    const { access_token: access, expires_in: seconds, refresh_token: next } = given.data;
    return { access, lifeMs: seconds * 1000, held: { ...held, secret: next ?? held.secret } };
  }
  const refusal = refusalShape.safeParse(asJson(answer.text));
  const said = refusal.success ? (refusal.data.error_description ?? refusal.data.error) : "something else than a token";
  throw new GatewayAway(`${there} gives no token: “${said.replace(/\s+/g, " ").slice(0, 300)}”.`);
}

const pack = ({ method }: Servers, held: Held): string => (method === "renewed" ? JSON.stringify(held) : held.secret);

/** @throws NoKey */
export const sealHeld = (servers: Servers, held: Held, about: string): Buffer => seal(pack(servers, held), about);

/** @throws NoKey */
export function heldOf({ person, id, secret, servers }: ServerAccount): Held {
  const text = unseal(secret, aboutSecret(person, id));
  return servers.method === "renewed" ? (JSON.parse(text) as Held) : { secret: text, clientSecret: null };
}

interface Cached {
  readonly access: string;
  readonly untilMs: number;
  /** Of which sealed secret it is: another one is another sign-in. */
  readonly of: string;
}
const cached = new Map<number, Cached>();
const printOf = (bytes: Uint8Array): string => createHash("sha256").update(bytes).digest("base64");

/**
 * What an account signs in with now. A refresh token that was given in the place of another is stored.
 * @throws NoKey, or GatewayAway where the endpoint gives none
 */
export async function openingOf(sql: Connection, account: ServerAccount): Promise<string> {
  const held = heldOf(account);
  const { servers, person, id } = account;
  if (servers.method !== "renewed" || !servers.tokens) return held.secret;
  const known = cached.get(id);
  if (known && known.of === printOf(account.secret) && known.untilMs > Date.now()) return known.access;
  const fetched = await fetchToken(servers.tokens, held);
  let { secret } = account;
  if (fetched.held.secret !== held.secret) {
    secret = sealHeld(servers, fetched.held, aboutSecret(person, id));
    await sql`
      update account set secret = ${secret} where person = ${person} and id = ${id} and secret = ${account.secret}`;
  }
  cached.set(id, {
    access: fetched.access,
    untilMs: Date.now() + Math.max(0, fetched.lifeMs - SPARE_MS),
    of: printOf(secret),
  });
  return fetched.access;
}
