import type { JobShape } from "@/core/api";
import { folderNamed } from "@/core/place";
import { findJob, jobShapeOf, listJobs, receiveFile } from "../jobs";
import { notFound, Refusal, type Context } from "./context";
import { readDirectory } from "./directory";
import { createFolder } from "./folders";

const JOBS_LISTED = 20;

/**
 * Takes a file of mail in as a job. A folder that does not exist is made.
 * @param body the bytes of an mbox or eml file, as they come
 */
export async function importFile(
  context: Context,
  name: string,
  folder: string,
  body: AsyncIterable<Uint8Array> | null,
): Promise<number> {
  if (!body)
    throw new Refusal(400, "Nothing to import", "Send the bytes of an mbox or eml file as the request's body.");
  const found = folderNamed(await readDirectory(context), folder);
  const { id } = found ?? (await createFolder(context, { path: folder }));
  return receiveFile(context.db, context.person, name.slice(0, 200), id, body);
}

export async function readJob({ db, person }: Context, id: number): Promise<JobShape> {
  const job = await findJob(db.sql, person, id);
  if (!job) throw notFound("job", id);
  return jobShapeOf(job);
}

export async function readJobs({ db, person }: Context): Promise<JobShape[]> {
  return (await listJobs(db.sql, person, JOBS_LISTED)).map(jobShapeOf);
}
