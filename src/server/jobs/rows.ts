import type { JobShape } from "@/core/api";
import type { PersonId } from "@/core/id";
import type { Database, Queryable, Transaction } from "../db";

export interface Problem {
  readonly offset: number;
  readonly reason: string;
}

export interface JobRow {
  readonly id: number;
  readonly person: number;
  readonly state: JobShape["state"];
  readonly name: string;
  readonly folder: number;
  readonly is_news: boolean;
  readonly total: number;
  readonly position: number;
  readonly added: number;
  readonly doubles: number;
  readonly problems: readonly Problem[];
  readonly error: string | null;
}

/** A list of problems past this says nothing more; the rest is counted by their absence. */
export const MOST_PROBLEMS = 1000;
/** How files are cut into rows. */
const CHUNK_BYTES = 1024 * 1024;
/** Job processes hear on it that there is work. */
export const JOB_CHANNEL = "tachyne_jobs";

export const jobShapeOf = (job: JobRow): JobShape => ({
  id: job.id,
  name: job.name,
  state: job.state,
  done: job.position,
  total: job.total,
  added: job.added,
  doubles: job.doubles,
  problems: [...job.problems],
  error: job.error,
});

const columns = (sql: Queryable) =>
  sql`id, person, state, name, folder, is_news, total, position, added, doubles, problems, error`;

export async function findJob(sql: Queryable, person: PersonId, id: number): Promise<JobRow | null> {
  const [row] = await sql<JobRow[]>`select ${columns(sql)} from job where person = ${person} and id = ${id}`;
  return row ?? null;
}

export async function listJobs(sql: Queryable, person: PersonId, limit: number): Promise<JobRow[]> {
  return sql<JobRow[]>`select ${columns(sql)} from job where person = ${person} order by id desc limit ${limit}`;
}

/** Jobs that wait or that a process which died was at. */
export async function openJobs(sql: Queryable): Promise<JobRow[]> {
  return sql<JobRow[]>`select ${columns(sql)} from job where state in ('queued', 'running') order by id`;
}

export async function findOpenJob(sql: Queryable, id: number): Promise<JobRow | null> {
  const [row] = await sql<
    JobRow[]
  >`select ${columns(sql)} from job where id = ${id} and state in ('queued', 'running')`;
  return row ?? null;
}

/** Notes that a file is coming, for a folder that is there. @returns the job */
export async function beginJob(
  tx: Transaction,
  person: PersonId,
  name: string,
  folder: number,
  isNews: boolean,
): Promise<number> {
  const [row] = await tx<{ id: number }[]>`
    insert into job (person, state, name, folder, is_news)
    values (${person}, 'receiving', ${name}, ${folder}, ${isNews}) returning id`;
  return row!.id;
}

/**
 * Stores a file as a job, piece by piece as it comes, and queues it once it is whole. A file that breaks off
 * leaves nothing behind; where not even that can be seen to, the keeper clears it away.
 */
export async function receiveFile({ sql }: Database, id: number, body: AsyncIterable<Uint8Array>): Promise<number> {
  try {
    let total = 0;
    let pieces: Uint8Array[] = [];
    let waiting = 0;
    const store = async () => {
      if (waiting === 0) return;
      await sql`insert into job_chunk (job, position, data) values (${id}, ${total}, ${Buffer.concat(pieces)})`;
      await sql`update job set touched_at = now() where id = ${id}`;
      total += waiting;
      pieces = [];
      waiting = 0;
    };
    for await (const piece of body) {
      pieces.push(piece);
      waiting += piece.length;
      if (waiting >= CHUNK_BYTES) await store();
    }
    await store();
    await sql`update job set state = 'queued', total = ${total} where id = ${id}`;
    await sql`select pg_notify(${JOB_CHANNEL}, ${String(id)})`;
    return id;
  } catch (error) {
    await sql`delete from job_chunk where job = ${id}`;
    await sql`delete from job where id = ${id}`;
    throw error;
  }
}

/** The file from a byte on. */
export async function* fileOf({ sql }: Database, job: number, from: number): AsyncGenerator<Uint8Array> {
  for (let at = from; ;) {
    const [chunk] = await sql<{ position: number; data: Uint8Array }[]>`
      select position, data from job_chunk where job = ${job} and position <= ${at} order by position desc limit 1`;
    if (!chunk || at >= chunk.position + chunk.data.length) return;
    yield chunk.data.subarray(at - chunk.position);
    at = chunk.position + chunk.data.length;
  }
}
