import {
  FOLDED_COLUMNS,
  foldedOf,
  mergeColumns,
  RowIndex,
  tidied,
  withoutMessages,
  type Columns,
  type Index,
} from "@/core/columns";
import { getIndex, Refused } from "./api";
import { keepIndex, readKept } from "./index-store";

/**
 * Brings the mailbox's index: from what the browser kept, brought up to date by what changed since, or else
 * from the server in parts. Fetching, unpacking, folding texts and putting parts together are done here, so that
 * the window stays free.
 */
export interface LoadRequest {
  readonly token: string;
  /** How many messages there are, for telling how far it is. */
  readonly total: number;
}

export type LoadNews =
  | { readonly kind: "read"; readonly messages: number }
  | {
      readonly kind: "columns";
      readonly columns: Columns;
      readonly rows: RowIndex["slots"];
      /** Events after this write are still to be applied. */
      readonly seq: number;
      readonly whole: boolean;
    }
  | { readonly kind: "failed"; readonly why: string };

const PART = "100000";
/** Fewer changed messages than this are fetched again next time rather than written now. */
const WORTH_KEEPING = 200;

const tell = (news: LoadNews, transfer: Transferable[] = []): void =>
  // Inside a worker; the page's type of itself is another.
  (self as unknown as Worker).postMessage(news, transfer);

const fold = (columns: Columns): void => FOLDED_COLUMNS.forEach((name) => void foldedOf(columns, name));

/** Every buffer the columns lie in, each once. */
function buffersOf(columns: Columns): ArrayBuffer[] {
  const buffers = new Set<ArrayBufferLike>();
  const visit = (value: unknown): void => {
    if (ArrayBuffer.isView(value)) buffers.add(value.buffer);
    else if (value !== null && typeof value === "object") Object.values(value).forEach(visit);
  };
  visit({ ...columns, labelSets: null });
  return [...buffers] as ArrayBuffer[];
}

/** Hands the columns over; they are the window's afterwards. */
function show(columns: Columns, seq: number, whole: boolean): void {
  const { slots } = new RowIndex(columns.id, columns.count);
  tell({ kind: "columns", columns, rows: slots, seq, whole }, [...buffersOf(columns), slots.buffer as ArrayBuffer]);
}

/** What was kept, brought up to date; null where the server does not know any more what changed since. */
async function fromKept(token: string): Promise<boolean> {
  const kept = await readKept(token);
  if (!kept) return false;
  let news: Index;
  try {
    news = await getIndex({ since: String(kept.seq) });
  } catch (error) {
    if (error instanceof Refused) return false;
    throw error;
  }
  let { columns } = kept;
  if (news.gone.length > 0) columns = withoutMessages(columns, new Set(news.gone));
  if (news.columns.count > 0) columns = mergeColumns(columns, news.columns);
  fold(columns);
  if (news.columns.count + news.gone.length < WORTH_KEEPING) show(columns, news.seq, true);
  else await keepAndShow(token, columns, news.seq);
  return true;
}

/** The window gets the columns first; what is kept is a copy made before. */
async function keepAndShow(token: string, columns: Columns, seq: number): Promise<void> {
  const copy = structuredClone(columns);
  show(columns, seq, true);
  await keepIndex(token, { seq, next: null, gone: [], columns: tidied(copy) });
}

/** Parts as one. Neighbours are put together first, so that a large part is not copied for each small one. */
function joined(parts: readonly Columns[]): Columns {
  if (parts.length === 1) return parts[0]!;
  const half = parts.length >> 1;
  return mergeColumns(joined(parts.slice(0, half)), joined(parts.slice(half)));
}

async function fromServer(token: string, total: number): Promise<void> {
  const ask = (before: number | null) =>
    getIndex(before === null ? { limit: PART } : { limit: PART, before: String(before) });
  let parts: Columns[] = [];
  let count = 0;
  let seq = Infinity;
  let shown = 0;
  for (let coming: Promise<Index> | null = ask(null); coming;) {
    const part: Index = await coming;
    // The server makes the next part while this one is worked on.
    coming = part.next === null ? null : ask(part.next);
    fold(part.columns);
    parts.push(part.columns);
    count += part.columns.count;
    seq = Math.min(seq, part.seq);
    tell({ kind: "read", messages: count });
    // What is there so far is shown each time it has doubled: copying it more often would be most of the work.
    if (coming && count >= 2 * shown && count < total) {
      shown = count;
      parts = [joined(parts)];
      show(structuredClone(parts[0]!), seq, false);
    }
  }
  await keepAndShow(token, joined(parts), seq);
}

self.onmessage = async ({ data: { token, total } }: MessageEvent<LoadRequest>) => {
  try {
    if (!(await fromKept(token))) await fromServer(token, total);
  } catch (error) {
    tell({ kind: "failed", why: error instanceof Error ? error.message : "The index cannot be read." });
  }
};
