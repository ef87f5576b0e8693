import { createCipheriv, createDecipheriv, randomBytes } from "node:crypto";
import { readFileSync, statSync } from "node:fs";

/**
 * Passwords are sealed with AES-256-GCM (NIST SP 800-38D) under a key that is not in the database: who has a copy of
 * the database alone reads none of them.
 */

const KEY_BYTES = 32;
const NONCE_BYTES = 12;
const TAG_BYTES = 16;

/** There is no key here that could seal or open anything, or it is another one. */
export class NoKey extends Error {
  override readonly name = "NoKey";
}

const HOW = "Set TACHYNE_KEY to 32 bytes in base64, or TACHYNE_KEY_FILE to a file that holds them and has mode 0600.";

function key(): Buffer {
  const { TACHYNE_KEY: given, TACHYNE_KEY_FILE: file } = process.env;
  if (given === undefined && file === undefined) throw new NoKey(`There is no key to seal passwords with. ${HOW}`);
  if (given === undefined && (statSync(file!).mode & 0o077) !== 0)
    throw new NoKey(`Others may read the key in ${file}: chmod 600 it.`);
  const bytes = Buffer.from((given ?? readFileSync(file!, "utf8")).trim(), "base64");
  if (bytes.length !== KEY_BYTES) throw new NoKey(`The key to seal passwords with is not 32 bytes long. ${HOW}`);
  return bytes;
}

/** @param about what the secret belongs to: opened for anything else, it does not open */
export function seal(secret: string, about: string): Buffer {
  const nonce = randomBytes(NONCE_BYTES);
  const cipher = createCipheriv("aes-256-gcm", key(), nonce).setAAD(Buffer.from(about));
  const sealed = Buffer.concat([cipher.update(secret, "utf8"), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), sealed]);
}

/** @throws NoKey where the key is missing or is not the one it was sealed with */
export function unseal(sealed: Uint8Array, about: string): string {
  const bytes = Buffer.from(sealed);
  const nonce = bytes.subarray(0, NONCE_BYTES);
  const tag = bytes.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES);
  const decipher = createDecipheriv("aes-256-gcm", key(), nonce).setAAD(Buffer.from(about)).setAuthTag(tag);
  try {
    return Buffer.concat([decipher.update(bytes.subarray(NONCE_BYTES + TAG_BYTES)), decipher.final()]).toString("utf8");
  } catch {
    throw new NoKey("The password was sealed with another key. Type it anew.");
  }
}
