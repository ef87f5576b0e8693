import { hash, verify } from "@node-rs/argon2";

/** Passwords as Argon2id (RFC 9106), with the least that OWASP asks for: 19 MiB, two passes, one lane. */

const COST = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

/** The same letters are the same password, however a keyboard puts them together (RFC 8265). */
const same = (password: string): string => password.normalize("NFKC");

export const hashPassword = (password: string): Promise<string> => hash(same(password), COST);

let nobody: Promise<string> | null = null;

/**
 * Whether that is the password. Where there is none, it takes as long to say no.
 * @param stored in PHC's form; null for somebody unknown, or without a password
 */
export async function isPassword(stored: string | null, password: string): Promise<boolean> {
  nobody ??= hashPassword("nobody has this one");
  const isIt = await verify(stored ?? (await nobody), same(password));
  return isIt && stored !== null;
}
