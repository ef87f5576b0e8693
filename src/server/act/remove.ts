import { randomUUID } from "node:crypto";
import type { RunAnswer } from "@/core/api";
import { writeEquals } from "@/core/narrow";
import { folderNamed } from "@/core/place";
import type { Step } from "@/core/macro";
import { listOf } from "../store";
import { notFound, Refusal, type Context } from "./context";
import { readCounts, readDirectory, tellOfSettings } from "./directory";
import { followRenaming } from "./follow";
import { runMacro } from "./runs";

export interface Removal {
  /** Path of the folder its mail goes to. */
  readonly to: string | null;
  /** Whether macros and batches that name it are to name that folder from now on. */
  readonly merge: boolean;
  /** The run's id, so that asking twice does it once. */
  readonly run?: string | undefined;
}

/**
 * Removes a folder with those below it. Their mail goes where the person says, as a run: taking that back
 * brings back the folders with their mail.
 */
export async function removeFolder(context: Context, id: number, { to, merge, run }: Removal): Promise<RunAnswer> {
  const { person } = context;
  const [directory, counts] = await Promise.all([readDirectory(context), readCounts(context)]);
  const folder = directory.folders.find((f) => f.id === id);
  if (!folder) throw notFound("folder", id);
  const below = directory.folders.filter(
    (f) => f.id === id || f.path.toLowerCase().startsWith(`${folder.path.toLowerCase()}/`),
  );
  const needed = below.find((f) => f.role !== null);
  if (needed) throw new Refusal(409, "Still needed", `"${needed.path}" serves as ${needed.role}. It can be renamed.`);
  const [job] = await context.db.sql`
    select 1 from job where person = ${person} and state in ('receiving', 'queued', 'running')
      and folder = any(${listOf(below.map((f) => f.id))}::text::int[]) limit 1`;
  if (job)
    throw new Refusal(409, "Mail is coming in", `An import into "${folder.path}" is going on. Wait for its end.`);
  const total = below.reduce((sum, f) => sum + (counts.get(f.id)?.total ?? 0), 0);
  if (total > 0 && to === null)
    throw new Refusal(
      409,
      "Not empty",
      `"${folder.path}" holds ${total} messages. Say where they are to go, with ?to=.`,
    );
  const target = to === null ? null : folderNamed(directory, to);
  if (to !== null && !target)
    throw new Refusal(422, "No such folder", `There is no folder "${to}" to put the mail into.`);
  if (target && below.includes(target))
    throw new Refusal(422, "Not a place for it", `"${target.path}" is being removed itself. Choose another folder.`);
  const steps: Step[] = target ? [{ do: "move", to: target.path }] : [{ do: "archive" }];
  const runId = run ?? randomUUID();
  const answer = await runMacro(
    context,
    {
      id: runId,
      macro: { name: `${merge ? "Merge" : "Remove"} folder ${folder.path}`.slice(0, 80), steps },
      target: { narrow: below.map((f) => writeEquals("folder", f.path)).join(" | ") },
    },
    (tx) => tx`
      update folder set removed = true, removed_by = ${runId}
      where person = ${person} and id = any(${listOf(below.map((f) => f.id))}::text::int[])`,
  );
  if (merge && target) await followRenaming(context, { what: "folder", from: folder.path, to: target.path });
  await tellOfSettings(context.db.sql, context);
  return answer;
}

/** Removes a label, and takes it off all messages that have it; the messages stay where they are. */
export async function removeLabel(context: Context, id: number, run?: string): Promise<RunAnswer> {
  const { person } = context;
  const { labels } = await readDirectory(context);
  const label = labels.find((l) => l.id === id);
  if (!label) throw notFound("label", id);
  const runId = run ?? randomUUID();
  const answer = await runMacro(
    context,
    {
      id: runId,
      macro: { name: `Remove label ${label.name}`.slice(0, 80), steps: [{ do: "label", remove: label.name }] },
      target: { narrow: writeEquals("label", label.name) },
    },
    (tx) => tx`update label set removed = true, removed_by = ${runId} where person = ${person} and id = ${id}`,
  );
  await tellOfSettings(context.db.sql, context);
  return answer;
}
