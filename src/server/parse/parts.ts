import { existsSync } from "node:fs";
import { join } from "node:path";
import { isHeavy, readHead, readParts, type Parts } from "@/core/mail";
import { ParsePool } from "./pool";

/**
 * Taking messages apart while somebody waits, in a process that serves others too. What is large is read by a thread
 * beside it: two seconds of one person's pictures are nobody else's, and what was made to take for ever is given up.
 */

/** Up to here a message takes some tens of milliseconds, however it was made: blank lines cost by their square. */
const SMALL_BYTES = 16 * 1024;
const THREADS = 2;

/** Kept on globalThis, since routes may be bundled apart from each other. */
const slot = globalThis as typeof globalThis & { tachyneParts?: ParsePool | null };

/** Null where the programs were not built: then everything is read here. */
function makePool(): ParsePool | null {
  const file = join(process.cwd(), "dist", "parse-worker.mjs");
  return existsSync(file) ? new ParsePool(file, THREADS, undefined, true) : null;
}

/**
 * The parts of a message; of a heavy one the headers alone, and a flaw that says so.
 * @param flaws what is known of it
 */
export async function partsOf(raw: Uint8Array, flaws: readonly string[]): Promise<Parts> {
  if (isHeavy(flaws)) return readHead(raw);
  if (raw.length <= SMALL_BYTES) return readParts(raw);
  slot.tachyneParts ??= makePool();
  return slot.tachyneParts?.parts(raw) ?? readParts(raw);
}
