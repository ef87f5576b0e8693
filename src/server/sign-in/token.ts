import { createHash, randomBytes } from "node:crypto";

/** Secrets that are handed out: whose they are, and 256 random bits. Of those only a digest is kept. */

const SECRET_BYTES = 32;
const FORM = /^(0|[1-9]\d{0,15})\.([A-Za-z0-9_-]{43})$/;

/** SHA-256: for random bits a slow digest would add nothing. */
const digest = (secret: string): Buffer => createHash("sha256").update(secret).digest();

export interface Token {
  /** The number of whose it says it is; that of nobody is 0. */
  readonly person: number;
  readonly hash: Buffer;
}

/** @returns what is handed out, and what is kept */
export function newToken(person: number): Token & { readonly text: string } {
  const secret = randomBytes(SECRET_BYTES).toString("base64url");
  return { person, hash: digest(secret), text: `${person}.${secret}` };
}

/** @returns null for what no token is */
export function readToken(text: string): Token | null {
  const [, person, secret] = FORM.exec(text) ?? [];
  return secret === undefined ? null : { person: Number(person), hash: digest(secret) };
}
