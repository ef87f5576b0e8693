import { FOLDED_COLUMNS, foldedOf, mergeColumns, RowIndex, tidied, type Columns, type Index } from "@/core/columns";
import { Away, getIndex, Refused } from "./api";
import { keepIndex, keepSince, readKept, readSince, withNews } from "./index-store";

/**
 * Brings the mailbox's index: from what the browser kept, brought up to date by what changed since, or else
 * from the server in parts. Fetching, unpacking, folding texts and putting parts together are done here, so that
 * the window stays free.
 */
export interface LoadRequest {
  readonly token: string;
  /** How many messages there are, for telling how far it is. */
  readonly total: number;
  /** Whether it is only to be kept anew: the window has it already. */
  readonly keepOnly?: boolean;
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
      /** The write that the kept index is of; what changes from there on is kept beside it. */
      readonly base: number;
      /** When it was so, where the server does not answer; milliseconds since 1970. */
      readonly asOf: number | null;
    }
  | { readonly kind: "kept"; readonly base: number }
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

interface Shown {
  readonly seq: number;
  readonly whole: boolean;
  readonly base: number;
  readonly asOf: number | null;
}

/** Hands the columns over; they are the window's afterwards. */
function show(columns: Columns, shown: Shown): void {
  const { slots } = new RowIndex(columns.id, columns.count);
  tell({ kind: "columns", columns, rows: slots, ...shown }, [...buffersOf(columns), slots.buffer as ArrayBuffer]);
}

/** What was kept, brought up to date; null where the server does not know any more what changed since. */
async function fromKept({ token, keepOnly = false }: LoadRequest): Promise<boolean> {
  const kept = await readKept(token);
  if (!kept) return false;
  const base = kept.index.seq;
  let news: Index;
  let asOf: number | null = null;
  try {
    news = await getIndex({ since: String(base) });
  } catch (error) {
    if (error instanceof Refused) return false;
    if (!(error instanceof Away) || keepOnly) throw error;
    // Without a connection it is shown as it was last.
    const since = await readSince(token, base);
    news = since?.index ?? { ...kept.index, gone: [], columns: { ...kept.index.columns, count: 0 } };
    asOf = since?.at ?? kept.at;
  }
  const columns = withNews(kept.index.columns, news);
  fold(columns);
  const isLittle = news.columns.count + news.gone.length < WORTH_KEEPING;
  if (keepOnly) await keepAnew(token, columns, news.seq);
  else if (asOf !== null) show(columns, { seq: news.seq, whole: true, base, asOf });
  else if (isLittle) {
    show(columns, { seq: news.seq, whole: true, base, asOf });
    await keepSince(token, base, news);
  } else await keepAndShow(token, columns, news.seq);
  return true;
}

async function keepAnew(token: string, columns: Columns, seq: number): Promise<void> {
  await keepIndex(token, { seq, next: null, gone: [], columns: tidied(columns) });
  tell({ kind: "kept", base: seq });
}

/** The window gets the columns first; what is kept is a copy made before. */
async function keepAndShow(token: string, columns: Columns, seq: number): Promise<void> {
  const copy = structuredClone(columns);
  show(columns, { seq, whole: true, base: seq, asOf: null });
  await keepIndex(token, { seq, next: null, gone: [], columns: tidied(copy) });
}

/** Parts as one. Neighbours are put together first, so that a large part is not copied for each small one. */
function joined(parts: readonly Columns[]): Columns {
  if (parts.length === 1) return parts[0]!;
  const half = parts.length >> 1;
  return mergeColumns(joined(parts.slice(0, half)), joined(parts.slice(half)));
}

async function fromServer({ token, total, keepOnly = false }: LoadRequest): Promise<void> {
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
    if (!keepOnly && coming && count >= 2 * shown && count < total) {
      shown = count;
      parts = [joined(parts)];
      show(structuredClone(parts[0]!), { seq, whole: false, base: seq, asOf: null });
    }
  }
  await (keepOnly ? keepAnew : keepAndShow)(token, joined(parts), seq);
}

self.onmessage = async ({ data }: MessageEvent<LoadRequest>) => {
  try {
    if (!(await fromKept(data))) await fromServer(data);
  } catch (error) {
    tell({ kind: "failed", why: error instanceof Error ? error.message : "The index cannot be read." });
  }
};
