import { createHash } from "node:crypto";
import { parentPort } from "node:worker_threads";
import { keysOf, parseMessage, parseWithText, type Keys, type Parsed } from "@/core/mail";
import { vectorOf } from "../search/vector";

/** What a parsing thread is asked: messages for an import, or the words of messages that are here. */
export interface ParseRequest {
  readonly batch: number;
  readonly what: "messages" | "words";
  readonly raws: readonly Uint8Array[];
  readonly nowMs: number;
}

export type ParsedItem =
  | {
      readonly ok: true;
      readonly raw: Uint8Array;
      readonly hash: Uint8Array;
      readonly parsed: Parsed;
      readonly keys: Keys;
    }
  | { readonly ok: false; readonly raw: Uint8Array; readonly reason: string };

/** A message's words as a tsvector, with what its headers say. */
export interface WordsItem {
  readonly parsed: Parsed;
  readonly keys: Keys;
  readonly vector: string;
}

export interface ParseAnswer {
  readonly batch: number;
  readonly items: readonly (ParsedItem | WordsItem | null)[];
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

/** @returns null for a message that cannot be read: it came in with its headers, and stays findable by them */
async function wordsOf(raw: Uint8Array, now: Date): Promise<WordsItem | null> {
  try {
    const { parsed, text } = await parseWithText(raw, { now });
    const keys = keysOf(parsed);
    return { parsed, keys, vector: vectorOf([keys.subject, keys.from, keys.to, keys.file], text) };
  } catch {
    return null;
  }
}

parentPort?.on("message", async ({ batch, what, raws, nowMs }: ParseRequest) => {
  const now = new Date(nowMs);
  const items: (ParsedItem | WordsItem | null)[] = [];
  for (const raw of raws) items.push(what === "messages" ? await parseOne(raw, now) : await wordsOf(raw, now));
  // The sources go back by being handed over, not copied.
  parentPort?.postMessage(
    { batch, items } satisfies ParseAnswer,
    what === "messages" ? raws.map((raw) => raw.buffer as ArrayBuffer) : [],
  );
});
