import { personId, type PersonId } from "@/core/id";
import { isHeavy, wireSize } from "@/core/mail";
import { TRAIT } from "@/core/narrow";
import { folderFor } from "@/core/place";
import type { Database, Transaction } from "../db";
import { inTurn, placeFor, readDirectory } from "../run";
import { bringNames, bringThings, itemsOf, openArchive, openPacked, restoreStates, type Incoming } from "./archive";
import { messagesOf } from "./messages-of";
import type { ParsedItem, ParsePool } from "../parse";
import { fileOf, MOST_PROBLEMS, type JobRow, type Problem } from "./rows";
import { putSources, type Source } from "./put-sources";
import { asKnown, awaited } from "../store";
import { intoOf, takeIn, type Good } from "./take-in";

/** Messages parsed at a time by a thread, and taken in by one transaction. */
const BATCH = 400;
/** Also the end of a batch, so that large messages do not pile up. */
const BATCH_BYTES = 8 * 1024 * 1024;
/** Batches under way for each thread: enough that none waits while another is written. */
const AHEAD = 2;

/** Messages for one place. */
interface Batch {
  readonly items: readonly Incoming[];
  readonly parsed: Promise<readonly ParsedItem[]>;
  readonly problems: readonly Problem[];
  /** The file is taken in up to here once the batch is. */
  readonly end: number;
}

/** Where the messages of a batch go: to the place of the role, or of the name, where they bring one along. */
async function folderOf(tx: Transaction, person: PersonId, job: JobRow, place: Incoming["place"]): Promise<number> {
  if (place === null) return job.folder;
  const known = place.role === null ? undefined : folderFor(await readDirectory(tx, person), place.role);
  return known?.id ?? placeFor(tx, person, place.path);
}

/** What a source says is less than what is known beside it. */
function goodOf(parsed: ParsedItem, { raw, flags, line }: Incoming): Good {
  const said = flags ?? (line && { read: line.read, flagged: line.flag !== null, answered: line.answered });
  // An archive of this app's own says of each source, byte by byte, what was decided about it.
  const alike = line ? [] : parsed.alike;
  if (!said) return { ...parsed, alike, raw };
  const traits = parsed.parsed.traits | (said.answered ? TRAIT.answered : 0);
  return { ...parsed, alike, raw, parsed: { ...parsed.parsed, read: said.read, flagged: said.flagged, traits } };
}

/** Those of a batch that an account's server has as well, of which only the headers are here. */
async function awaitedOf(db: Database, job: JobRow, { items, parsed }: Batch, pool: ParsePool): Promise<Source[]> {
  const read = await parsed;
  const asked = read.map((item, i) => ({ messageId: item.parsed.messageId, size: wireSize(items[i]!.raw) }));
  const contents = await awaited(db.sql, personId(job.person), asked);
  const sources = read.flatMap((item, i) => {
    const content = contents[i];
    const isFirst = contents.indexOf(content) === i;
    return content === undefined || !isFirst ? [] : [{ ...item, content, raw: items[i]!.raw }];
  });
  if (sources.length === 0) return [];
  const heavy = sources.flatMap(({ parsed: { flaws } }, i) => (isHeavy(flaws) ? [i] : []));
  const words = await pool.words(
    sources.map(({ raw }) => raw),
    heavy,
    new Date(),
  );
  return sources.map((source, i) => ({ ...source, vector: words[i]!.vector }));
}

async function commit(db: Database, job: JobRow, batch: Batch, pool: ParsePool): Promise<void> {
  const parsed = await batch.parsed;
  const person = personId(job.person);
  const sources = await awaitedOf(db, job, batch, pool);
  await inTurn(db, person, async (tx, seq) => {
    const folder = await folderOf(tx, person, job, batch.items[0]!.place);
    const into = await intoOf(tx, person, folder, 0, job.is_news);
    if (sources.length > 0) await putSources(tx, person, seq, sources);
    const goods = await asKnown(
      tx,
      person,
      parsed.map((item, i) => goodOf(item, batch.items[i]!)),
    );
    const { added, doubles, ids } = await takeIn(tx, seq, into, goods);
    await restoreStates(tx, job, into.folder, batch.items, ids);
    // The place in the file moves in the same transaction: whatever happens, nothing comes in twice or not at all.
    await tx`
      update job set position = ${batch.end}, added = added + ${added}, doubles = doubles + ${doubles},
        problems = case when jsonb_array_length(problems) < ${MOST_PROBLEMS}
          then problems || ${JSON.stringify(batch.problems)}::text::jsonb else problems end
      where id = ${job.id}`;
  });
}

/** What is in a job's file, from where it stopped, and what is to be done once all of it is in. */
async function contentsOf(db: Database, job: JobRow, note: (problem: Problem) => void) {
  const packed = await openPacked(db, job.id);
  if (!packed) {
    const items = async function* (): AsyncGenerator<Incoming> {
      for await (const { raw, end } of messagesOf(fileOf(db, job.id, job.position), job.position, note))
        yield { raw, end, place: null, flags: null, line: null, nth: 1 };
    };
    return { items: items(), finish: () => Promise.resolve() };
  }
  const opened = await openArchive(packed);
  // How far it is, is said of what is in it.
  await db.sql`update job set total = ${opened.total} where id = ${job.id}`;
  const { manifest } = opened;
  if (manifest) await bringNames(db, personId(job.person), manifest);
  return {
    items: itemsOf(packed, opened, job.position, note),
    finish: async (tx: Transaction) => {
      if (manifest) await bringThings(tx, job, manifest);
    },
  };
}

const isElsewhere = (a: Incoming["place"], b: Incoming["place"]): boolean => a?.path !== b?.path || a?.role !== b?.role;

/**
 * Runs an import to its end, from where it stopped. Parsing is ahead of writing by a few batches; the file is
 * never held whole.
 */
export async function runImport(db: Database, job: JobRow, pool: ParsePool): Promise<void> {
  await db.sql`update job set state = 'running' where id = ${job.id}`;
  const now = new Date();
  const under: Batch[] = [];
  let items: Incoming[] = [];
  let problems: Problem[] = [];
  let bytes = 0;
  const start = async () => {
    const parsed = pool.parse(
      items.map((item) => item.raw),
      now,
    );
    // A failure is met when the batch is committed; until then it must not count as unhandled.
    parsed.catch(() => {});
    under.push({ items, parsed, problems, end: items.at(-1)!.end });
    [items, problems, bytes] = [[], [], 0];
    if (under.length > pool.size * AHEAD) await commit(db, job, under.shift()!, pool);
  };
  const contents = await contentsOf(db, job, (problem) => problems.push(problem));
  for await (const item of contents.items) {
    if (items.length > 0 && isElsewhere(items[0]!.place, item.place)) await start();
    items.push(item);
    bytes += item.raw.length;
    if (items.length >= BATCH || bytes >= BATCH_BYTES) await start();
  }
  if (items.length > 0) await start();
  for (const batch of under) await commit(db, job, batch, pool);
  await inTurn(db, personId(job.person), async (tx) => {
    await contents.finish(tx);
    await tx`
      update job set state = 'done', position = total, finished_at = now(), problems = problems || ${JSON.stringify(problems)}::text::jsonb
      where id = ${job.id}`;
    await tx`delete from job_chunk where job = ${job.id}`;
  });
}
