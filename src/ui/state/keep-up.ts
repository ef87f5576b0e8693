import { isQuietFor, whenIdle } from "./idle";
import { getIndex } from "./api";
import { emptyIndexes, keepSince } from "./index-store";
import type { LoadNews, LoadRequest } from "./index-worker";
import { view } from "./store";

/**
 * Keeps the mailbox in the browser as it is, so that a window without a connection shows what was decided before it:
 * beside the whole index that was kept once, what has changed since, a moment after it did.
 */

/** A burst of decisions is kept once. */
const AFTER_MS = 4000;
const QUIET_MS = 1500;
/** Who never rests is kept up with all the same. */
const LONGEST_MS = 60_000;
/** With more changed messages than this, the whole index is kept anew. */
const MOST_CHANGED = 5000;

let base: number | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;

/** The whole index is kept as of that write. */
export function noteBase(seq: number): void {
  base = seq;
}

/** Gives up what is kept, until the app is opened anew. */
export async function endKeeping(): Promise<void> {
  base = null;
  await emptyIndexes();
}

/** All of it anew, beside the window. */
function keepAll(token: string, total: number): void {
  const worker = new Worker(new URL("./index-worker.ts", import.meta.url), { type: "module" });
  worker.onerror = () => worker.terminate();
  worker.onmessage = ({ data }: MessageEvent<LoadNews>) => {
    if (data.kind === "kept") noteBase(data.base);
    if (data.kind !== "read") worker.terminate();
  };
  worker.postMessage({ token, total, keepOnly: true } satisfies LoadRequest);
}

async function keep(): Promise<void> {
  const { home, link } = view();
  if (base === null || home === null || link === "away") return;
  const { token } = home.person;
  const of = base;
  try {
    const news = await getIndex({ since: String(of) });
    if (news.columns.count + news.gone.length > MOST_CHANGED) keepAll(token, home.messages);
    else await keepSince(token, of, news);
  } catch {
    // The server is away, or knows no more what changed: the next visit reads all.
  }
}

/** Keeps once the hands rest: keys must not wait for it. @param waited milliseconds since something changed */
function later(waited: number): void {
  timer = setTimeout(() => {
    if (!isQuietFor(QUIET_MS) && waited < LONGEST_MS) return later(waited + AFTER_MS);
    timer = undefined;
    whenIdle(() => void keep());
  }, AFTER_MS);
}

/** Something has changed. */
export function keepUpSoon(): void {
  if (timer === undefined) later(AFTER_MS);
}
