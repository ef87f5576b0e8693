import { createHash } from "node:crypto";
import { parentPort } from "node:worker_threads";
import { keysOf, parseMessage, type Parsed } from "@/core/mail";

export interface ParseRequest {
  readonly batch: number;
  readonly raws: readonly Uint8Array[];
  readonly nowMs: number;
}

export type ParsedItem =
  | {
      readonly ok: true;
      readonly raw: Uint8Array;
      readonly hash: Uint8Array;
      readonly parsed: Parsed;
      readonly keys: ReturnType<typeof keysOf>;
    }
  | { readonly ok: false; readonly raw: Uint8Array; readonly reason: string };

export interface ParseAnswer {
  readonly batch: number;
  readonly items: readonly ParsedItem[];
}

async function parseOne(raw: Uint8Array, now: Date): Promise<ParsedItem> {
  try {
    const parsed = await parseMessage(raw, { now });
    return { ok: true, raw, hash: createHash("sha256").update(raw).digest(), parsed, keys: keysOf(parsed) };
  } catch (error) {
    // One message that defeats the parser must not take the others with it; it is listed.
    return { ok: false, raw, reason: error instanceof Error ? error.message.slice(0, 200) : "unreadable" };
  }
}

parentPort?.on("message", async ({ batch, raws, nowMs }: ParseRequest) => {
  const now = new Date(nowMs);
  const items: ParsedItem[] = [];
  for (const raw of raws) items.push(await parseOne(raw, now));
  // The sources go back by being handed over, not copied.
  parentPort?.postMessage(
    { batch, items } satisfies ParseAnswer,
    raws.map((raw) => raw.buffer as ArrayBuffer),
  );
});
