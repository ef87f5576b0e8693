import type { JobShape } from "@/core/api";
import { folderNamed } from "@/core/place";
import { cut, storable } from "@/core/text";
import { beginJob, findJob, jobShapeOf, listJobs, receiveFile } from "../jobs";
import { inTurn, notFound, readDirectory, Refusal } from "../run";
import type { Context } from "./context";
import { makeFolder } from "./folders";
import { cleanPath } from "./taken";

const JOBS_LISTED = 20;

/**
 * Takes a file of mail in as a job. A folder that does not exist is made.
 * @param body the bytes of an mbox or eml file, as they come
 * @param isNews whether rules look at what comes into the inbox
 */
export async function importFile(
  context: Context,
  name: string,
  folder: string,
  body: AsyncIterable<Uint8Array> | null,
  isNews = false,
): Promise<number> {
  if (!body)
    throw new Refusal(400, "Nothing to import", "Send the bytes of an mbox or eml file as the request's body.");
  const { db, person } = context;
  // The job stands before its folder can be removed: both are looked at in one turn.
  const job = await inTurn(db, person, async (tx) => {
    const found = folderNamed(await readDirectory(tx, person), folder);
    const id = found?.id ?? (await makeFolder(tx, person, cleanPath(folder)));
    return beginJob(tx, person, cut(storable(name), 200), id, isNews);
  });
  return receiveFile(db, job, body);
}

export async function readJob({ db, person }: Context, id: number): Promise<JobShape> {
  const job = await findJob(db.sql, person, id);
  if (!job) throw notFound("job", id);
  return jobShapeOf(job);
}

export async function readJobs({ db, person }: Context): Promise<JobShape[]> {
  return (await listJobs(db.sql, person, JOBS_LISTED)).map(jobShapeOf);
}
