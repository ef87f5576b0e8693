import { parentPort } from "node:worker_threads";
import {
  keysOf,
  parseHead,
  parseMessage,
  parseWithText,
  readHead,
  readParts,
  type Keys,
  type Parsed,
  type Parts,
} from "@/core/mail";
import { vectorOf } from "../search/vector";
import { hashesOf, type Hashes } from "../store/hashes";

/** What a parsing thread gives, by what it is asked: messages for an import, the words of those that are here, parts. */
export interface Given {
  readonly messages: ParsedItem;
  readonly words: WordsItem;
  readonly parts: Parts;
}
export type What = keyof Given;

export interface ParseRequest {
  readonly batch: number;
  readonly what: What;
  readonly raws: readonly Uint8Array[];
  /** Those of which only the headers are read: the whole was too much for a thread before. */
  readonly heavy: readonly number[];
  readonly nowMs: number;
  /** Two numbers the pool looks at: which message is being read, and how many have been begun altogether. */
  readonly progress: Int32Array;
}

/** A message as it is to be taken in. Any source can be read: a flaw says where only its headers were. */
export interface ParsedItem extends Hashes {
  readonly parsed: Parsed;
  readonly keys: Keys;
}

/** A message's words as a tsvector, with what its headers say. */
export interface WordsItem {
  readonly parsed: Parsed;
  readonly keys: Keys;
  readonly vector: string;
}

export interface ParseAnswer {
  readonly batch: number;
  /** In the order of the sources. */
  readonly items: readonly Given[What][];
}

async function messageOf(raw: Uint8Array, now: Date, heavy: boolean): Promise<ParsedItem> {
  let parsed: Parsed;
  try {
    parsed = await (heavy ? parseHead(raw, { now }) : parseMessage(raw, { now }));
  } catch {
    // One message that defeats the parser must not take the others with it.
    parsed = await parseHead(raw, { now });
  }
  return { ...hashesOf(raw), parsed, keys: keysOf(parsed) };
}

async function wordsOf(raw: Uint8Array, now: Date, heavy: boolean): Promise<WordsItem> {
  const read = async () => {
    if (heavy) return { parsed: await parseHead(raw, { now }), text: "" };
    return parseWithText(raw, { now }).catch(async () => ({ parsed: await parseHead(raw, { now }), text: "" }));
  };
  const { parsed, text } = await read();
  const keys = keysOf(parsed);
  return { parsed, keys, vector: vectorOf([keys.subject, keys.from, keys.to, keys.file], text) };
}

const READ: { readonly [W in What]: (raw: Uint8Array, now: Date, heavy: boolean) => Promise<Given[W]> } = {
  messages: messageOf,
  words: wordsOf,
  parts: (raw, _, heavy) => (heavy ? readHead(raw) : readParts(raw)),
};

parentPort?.on("message", async ({ batch, what, raws, heavy, nowMs, progress }: ParseRequest) => {
  const now = new Date(nowMs);
  const headOnly = new Set(heavy);
  const read = READ[what];
  const items: Given[What][] = [];
  for (const [i, raw] of raws.entries()) {
    Atomics.store(progress, 0, i);
    Atomics.add(progress, 1, 1);
    items.push(await read(raw, now, headOnly.has(i)));
  }
  parentPort?.postMessage({ batch, items } satisfies ParseAnswer);
});
