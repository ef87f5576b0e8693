import { createHash, createHmac, randomBytes, timingSafeEqual } from "node:crypto";
import type { PersonId } from "@/core/id";
import type { Database, Queryable } from "../db";
import { NoKey, seal, unseal } from "../gateway";

/** Codes of six digits that an app on a phone makes anew every half a minute (RFC 6238), and codes on paper. */

const STEP_S = 30;
const DIGITS = 6;
/** As RFC 4226 asks for. */
const SECRET_BYTES = 20;
/** A clock may be off by one step. */
const OFF = [0, -1, 1] as const;

/** RFC 4648. */
const LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ234567";

export function base32(bytes: Uint8Array): string {
  let bits = "";
  for (const byte of bytes) bits += byte.toString(2).padStart(8, "0");
  return (bits.match(/.{1,5}/g) ?? []).map((five) => LETTERS[parseInt(five.padEnd(5, "0"), 2)]).join("");
}

/** The code of a time step (RFC 4226, with SHA-1, as every app makes them). */
export function codeAt(secret: Uint8Array, step: number): string {
  const counter = Buffer.alloc(8);
  counter.writeBigUInt64BE(BigInt(step));
  const digest = createHmac("sha1", secret).update(counter).digest();
  const at = digest.at(-1)! & 0xf;
  return String((digest.readUInt32BE(at) & 0x7fff_ffff) % 10 ** DIGITS).padStart(DIGITS, "0");
}

export const stepAt = (now: Date): number => Math.floor(now.getTime() / 1000 / STEP_S);

/** The step whose code that is; null for a wrong one, or one that was used. */
function stepOf(secret: Uint8Array, code: string, now: Date, used: number): number | null {
  const given = Buffer.from(code.padEnd(DIGITS).slice(0, DIGITS));
  for (const off of OFF) {
    const step = stepAt(now) + off;
    if (step > used && timingSafeEqual(given, Buffer.from(codeAt(secret, step)))) return step;
  }
  return null;
}

const about = (person: PersonId): string => `codes of ${person}`;

/** A new secret for somebody, which counts once a first code was right. @returns it, in base32 */
export async function newSecret({ sql }: Database, person: PersonId): Promise<string> {
  const secret = base32(randomBytes(SECRET_BYTES));
  await sql`update sign_in set code_secret = ${seal(secret, about(person))}, code_since = null, code_step = 0 where person = ${person}`;
  return secret;
}

const bytesOf = (secret: string): Buffer => {
  const bits = [...secret].map((letter) => LETTERS.indexOf(letter).toString(2).padStart(5, "0")).join("");
  return Buffer.from((bits.match(/.{8}/g) ?? []).map((byte) => parseInt(byte, 2)));
};

/** Null where the key it was sealed with is gone: what is on paper lets in all the same. */
function opened(sealed: Uint8Array, person: PersonId): string | null {
  try {
    return unseal(sealed, about(person));
  } catch (error) {
    if (error instanceof NoKey) return null;
    throw error;
  }
}

/** Uses up the code that an app shows now, or one on paper. @returns whether it is one of them */
export const takeCode = async (tx: Queryable, person: PersonId, code: string): Promise<boolean> =>
  (await isCode(tx, person, code.trim(), new Date())) || isPaperCode(tx, person, code);

/** Uses a code up. In a transaction of its own row, so that of two at once one is right. */
async function isCode(tx: Queryable, person: PersonId, code: string, now: Date): Promise<boolean> {
  const [row] = await tx<{ secret: Uint8Array | null; used: number }[]>`
    select code_secret as secret, code_step as used from sign_in where person = ${person} for update`;
  if (!row?.secret || !/^\d{6}$/.test(code)) return false;
  const secret = opened(row.secret, person);
  const step = secret === null ? null : stepOf(bytesOf(secret), code, now, row.used);
  if (step === null) return false;
  await tx`update sign_in set code_step = ${step} where person = ${person}`;
  return true;
}

/** Ten codes of eighty bits each, in groups of four letters. */
const PAPER = { count: 10, bytes: 10 } as const;

const digest = (code: string): Buffer =>
  createHash("sha256")
    .update(code.toUpperCase().replace(/[^A-Z2-7]/g, ""))
    .digest();

/** New codes for paper in the place of those before. */
export async function newPaperCodes(tx: Queryable, person: PersonId): Promise<readonly string[]> {
  const codes = Array.from({ length: PAPER.count }, () =>
    base32(randomBytes(PAPER.bytes)).match(/.{4}/g)!.join("-").toLowerCase(),
  );
  await tx`delete from recovery_code where person = ${person}`;
  for (const code of codes) await tx`insert into recovery_code (person, hash) values (${person}, ${digest(code)})`;
  return codes;
}

/** Uses one up. */
async function isPaperCode(tx: Queryable, person: PersonId, code: string): Promise<boolean> {
  const used = await tx`delete from recovery_code where person = ${person} and hash = ${digest(code)} returning person`;
  return used.length > 0;
}
