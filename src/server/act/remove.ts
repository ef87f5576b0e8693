import { randomUUID } from "node:crypto";
import type { RunAnswer } from "@/core/api";
import type { ThingEdit } from "@/core/change";
import { runId, type PersonId } from "@/core/id";
import { redirected, type Step } from "@/core/macro";
import { writeEquals } from "@/core/narrow";
import { folderNamed, type Directory, type Folder } from "@/core/place";
import { cut, plural } from "@/core/text";
import type { Transaction } from "../db";
import { apply, BY_PERSON, inTurn, notFound, prepare, readDirectory, Refusal } from "../run";
import { findEntry, listOf, type LedgerEntry } from "../store";
import type { Context } from "./context";
import { readCounts } from "./counts";
import { runAnswerOf } from "./runs";

export interface Removal {
  /** Path of the folder its mail goes to. */
  readonly to: string | null;
  /** Whether macros and batches that name it are to name that folder from now on. */
  readonly merge: boolean;
  /** The run's id, so that asking twice does it once. */
  readonly run?: string | undefined;
}

/** What is removed, and the steps that take its mail away first. */
interface Removing {
  readonly name: string;
  readonly steps: readonly Step[];
  readonly narrow: string;
  readonly things: readonly ThingEdit[];
}

const removed = (kind: "folder" | "label", id: number): ThingEdit => ({
  kind,
  key: String(id),
  about: null,
  before: true,
  after: null,
});

/**
 * A removal is a run: what takes the mail away and what takes the name away stand in one entry, and come back
 * together.
 * @param read what is to be removed, read in the turn
 */
async function remove(
  context: Context,
  request: string | undefined,
  read: (tx: Transaction) => Promise<Removing>,
): Promise<RunAnswer> {
  const { db, person } = context;
  const id = runId(request ?? randomUUID());
  const entry = await inTurn(db, person, async (tx, seq): Promise<LedgerEntry> => {
    const earlier = await findEntry(tx, person, id);
    if (earlier) return earlier;
    const { name, steps, narrow, things } = await read(tx);
    const macro = { name: cut(name, 80), steps: [...steps] };
    const prepared = await prepare(tx, context, { macro, target: { narrow } }, null);
    return apply(tx, context, prepared, { seq, id, ...BY_PERSON, things });
  });
  return runAnswerOf(context, entry);
}

function targetOf(directory: Directory, below: readonly Folder[], to: string | null): Folder | null {
  if (to === null) return null;
  const target = folderNamed(directory, to);
  if (!target) throw new Refusal(422, "No such folder", `There is no folder "${to}" to put the mail into.`);
  if (below.includes(target))
    throw new Refusal(422, "Not a place for it", `"${target.path}" is being removed itself. Choose another folder.`);
  return target;
}

/** Refuses while an import still brings mail into one of them. */
export async function refuseWhileImporting(tx: Transaction, person: PersonId, below: readonly Folder[]): Promise<void> {
  const [job] = await tx`
    select 1 from job where person = ${person} and state in ('receiving', 'queued', 'running')
      and folder = any(${listOf(below.map((f) => f.id))}::text::int[]) limit 1`;
  if (job)
    throw new Refusal(409, "Mail is coming in", `An import into "${below[0]!.path}" is going on. Wait for its end.`);
}

/** Lets macros, batches, rules and hours that named the folders name another one. */
async function merge(tx: Transaction, person: PersonId, from: readonly Folder[], to: Folder): Promise<void> {
  const ids = new Set<number>(from.map((folder) => folder.id));
  const next = (stored: unknown) => JSON.stringify(redirected(stored, "folder", ids, to.id));
  for (const { id, steps, settings } of await tx<{ id: number; steps: unknown; settings: unknown }[]>`
    select id, steps, settings from macro where person = ${person}`)
    await tx`
      update macro set steps = ${next(steps)}::text::jsonb, settings = ${next(settings)}::text::jsonb
      where person = ${person} and id = ${id}`;
  for (const { id, narrow } of await tx<{ id: number; narrow: unknown }[]>`
    select id, narrow from batch where person = ${person}`)
    await tx`update batch set narrow = ${next(narrow)}::text::jsonb where person = ${person} and id = ${id}`;
  for (const { id, narrow } of await tx<{ id: number; narrow: unknown }[]>`
    select id, narrow from rule where person = ${person}`)
    await tx`update rule set narrow = ${next(narrow)}::text::jsonb where person = ${person} and id = ${id}`;
  for (const { id, narrow, through } of await tx<{ id: number; narrow: unknown; through: unknown }[]>`
    select id, narrow, through from hours where person = ${person}`)
    await tx`
      update hours set narrow = ${next(narrow)}::text::jsonb, through = nullif(${next(through)}, 'null')::text::jsonb
      where person = ${person} and id = ${id}`;
}

/**
 * Removes a folder with those below it. Their mail goes where the person says, as a run: taking that back
 * brings back the folders with their mail.
 */
export async function removeFolder(
  context: Context,
  id: number,
  { to, merge: follow, run }: Removal,
): Promise<RunAnswer> {
  const { person } = context;
  return remove(context, run, async (tx) => {
    const directory = await readDirectory(tx, person);
    const folder = directory.folders.find((f) => f.id === id);
    if (!folder) throw notFound("folder", id);
    const under = `${folder.path.toLowerCase()}/`;
    const below = [folder, ...directory.folders.filter((f) => f.path.toLowerCase().startsWith(under))];
    const needed = below.find((f) => f.role !== null);
    if (needed) throw new Refusal(409, "Still needed", `"${needed.path}" serves as ${needed.role}. It can be renamed.`);
    await refuseWhileImporting(tx, person, below);
    const counts = await readCounts(tx, person);
    const total = below.reduce((sum, f) => sum + (counts.get(f.id)?.total ?? 0), 0);
    if (total > 0 && to === null)
      throw new Refusal(
        409,
        "Not empty",
        `"${folder.path}" holds ${plural(total, "message")}. Say where they are to go, with ?to=.`,
      );
    const target = targetOf(directory, below, to);
    if (follow && target) await merge(tx, person, below, target);
    return {
      name: `${follow ? "Merge" : "Remove"} folder ${folder.path}`,
      steps: target ? [{ do: "move", to: target.path }] : [{ do: "archive" }],
      narrow: below.map((f) => writeEquals("folder", f.path)).join(" | "),
      things: below.map((f) => removed("folder", f.id)),
    };
  });
}

/** Removes a label, and takes it off all messages that have it; the messages stay where they are. */
export async function removeLabel(context: Context, id: number, run?: string): Promise<RunAnswer> {
  return remove(context, run, async (tx) => {
    const label = (await readDirectory(tx, context.person)).labels.find((l) => l.id === id);
    if (!label) throw notFound("label", id);
    return {
      name: `Remove label ${label.name}`,
      steps: [{ do: "label", remove: label.name }],
      narrow: writeEquals("label", label.name),
      things: [removed("label", id)],
    };
  });
}
