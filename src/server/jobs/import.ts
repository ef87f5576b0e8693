import { personId } from "@/core/id";
import { MboxSplitter, MOST_MESSAGE_BYTES, type MboxItem } from "@/core/mail";
import type { Database } from "../db";
import { inTurn } from "../run";
import type { ParsedItem } from "./parse-worker";
import type { ParsePool } from "./pool";
import { fileOf, MOST_PROBLEMS, type JobRow, type Problem } from "./rows";
import { intoOf, takeIn } from "./take-in";

/** Messages parsed at a time by a thread, and taken in by one transaction. */
const BATCH = 400;
/** Also the end of a batch, so that large messages do not pile up. */
const BATCH_BYTES = 8 * 1024 * 1024;
/** Batches under way for each thread: enough that none waits while another is written. */
const AHEAD = 2;

const PROBLEM_TEXT = {
  "before-first-message": "These bytes stand before the first message and belong to none.",
  "too-large": `The message is larger than ${MOST_MESSAGE_BYTES / 1024 / 1024} MB.`,
} as const;

interface Batch {
  readonly items: readonly MboxItem[];
  readonly parsed: Promise<readonly ParsedItem[]>;
  readonly problems: readonly Problem[];
  /** The file is taken in up to here once the batch is. */
  readonly end: number;
}

/** The messages of a file: an mbox when it begins like one, else one message. */
async function* messagesOf(
  file: AsyncIterable<Uint8Array>,
  offset: number,
  note: (problem: Problem) => void,
): AsyncGenerator<MboxItem> {
  let splitter: MboxSplitter | null = null;
  let single: Uint8Array[] = [];
  let noted = 0;
  const pass = function* (items: Iterable<MboxItem>) {
    yield* items;
    for (; splitter && noted < splitter.problems.length; noted++) {
      const problem = splitter.problems[noted]!;
      note({ offset: problem.offset, reason: PROBLEM_TEXT[problem.reason] });
    }
  };
  for await (const chunk of file) {
    if (!splitter && single.length === 0 && (offset > 0 || looksLikeMbox(chunk))) splitter = new MboxSplitter(offset);
    if (splitter) yield* pass(splitter.push(chunk));
    else if (single.reduce((sum, piece) => sum + piece.length, 0) + chunk.length > MOST_MESSAGE_BYTES) {
      note({ offset: 0, reason: PROBLEM_TEXT["too-large"] });
      return;
    } else single.push(chunk);
  }
  if (splitter) yield* pass(splitter.finish());
  else if (single.length > 0) {
    const raw = new Uint8Array(Buffer.concat(single));
    single = [];
    yield { offset: 0, end: raw.length, raw };
  }
}

/**
 * Some mailbox files begin with empty lines, or with rubbish: what begins with a header field is one message,
 * anything else that has a separator line is a mailbox.
 */
function looksLikeMbox(chunk: Uint8Array): boolean {
  const text = Buffer.from(chunk.subarray(0, 64 * 1024)).toString("latin1");
  if (/^\s*From /.test(text)) return true;
  return !/^[!-9;-~]+:/.test(text) && /\nFrom [^\n]{0,400}\d:\d\d[^\n]{0,60}\r?\n/.test(text);
}

async function commit(db: Database, job: JobRow, batch: Batch): Promise<void> {
  const parsed = await batch.parsed;
  await inTurn(db, personId(job.person), async (tx, seq) => {
    const into = await intoOf(tx, personId(job.person), job.folder, 0);
    const { added, doubles } = await takeIn(
      tx,
      seq,
      into,
      parsed.map((item, i) => ({ ...item, raw: batch.items[i]!.raw })),
    );
    // The place in the file moves in the same transaction: whatever happens, nothing comes in twice or not at all.
    await tx`
      update job set position = ${batch.end}, added = added + ${added}, doubles = doubles + ${doubles},
        problems = case when jsonb_array_length(problems) < ${MOST_PROBLEMS}
          then problems || ${JSON.stringify(batch.problems)}::text::jsonb else problems end
      where id = ${job.id}`;
  });
}

/**
 * Runs an import to its end, from where it stopped. Parsing is ahead of writing by a few batches; the file is
 * never held whole.
 */
export async function runImport(db: Database, job: JobRow, pool: ParsePool): Promise<void> {
  await db.sql`update job set state = 'running' where id = ${job.id}`;
  const now = new Date();
  const under: Batch[] = [];
  let items: MboxItem[] = [];
  let problems: Problem[] = [];
  let bytes = 0;
  const start = () => {
    const parsed = pool.parse(
      items.map((item) => item.raw),
      now,
    );
    // A failure is met when the batch is committed; until then it must not count as unhandled.
    parsed.catch(() => {});
    under.push({ items, parsed, problems, end: items.at(-1)!.end });
    [items, problems, bytes] = [[], [], 0];
  };
  for await (const item of messagesOf(fileOf(db, job.id, job.position), job.position, (problem) =>
    problems.push(problem),
  )) {
    items.push(item);
    bytes += item.raw.length;
    if (items.length < BATCH && bytes < BATCH_BYTES) continue;
    start();
    if (under.length > pool.size * AHEAD) await commit(db, job, under.shift()!);
  }
  if (items.length > 0) start();
  for (const batch of under) await commit(db, job, batch);
  await db.sql.begin(async (tx) => {
    await tx`
      update job set state = 'done', position = total, finished_at = now(), problems = problems || ${JSON.stringify(problems)}::text::jsonb
      where id = ${job.id}`;
    await tx`delete from job_chunk where job = ${job.id}`;
  });
}
