import { percentOf, whyJunk, whyText, type Junkiness } from "@/core/filing";
import type { FolderId, MessageId, PersonId } from "@/core/id";
import type { FolderGuess } from "@/core/macro";
import type { Queryable } from "../db";
import { readFilingMails } from "./mails";
import { modelOf } from "./model";

/** A guess with what speaks for it, in words. */
export interface ExplainedGuess extends FolderGuess {
  readonly why: string[];
}

/** What has been learned of a message: where it probably belongs, and how probably it is junk. */
export interface Learned {
  /** The likeliest first. */
  readonly guesses: readonly ExplainedGuess[];
  /** null where nothing tells. */
  readonly junk: { readonly percent: number; readonly why: string[] } | null;
}

/** Messages read at a time. */
const AT_ONCE = 250;

const junkOf = (junkiness: Junkiness | null): Learned["junk"] =>
  junkiness && { percent: percentOf(junkiness.probability), why: junkiness.reasons.map(whyJunk) };

/** Folders that guesses may name. */
async function foldersThere(sql: Queryable, person: PersonId): Promise<Set<FolderId>> {
  const rows = await sql<{ id: FolderId }[]>`
    select id from folder where person = ${person} and role is null and not removed`;
  return new Set(rows.map(({ id }) => id));
}

/** What is to be guessed of messages; of those that are not there, nothing. */
export async function guessesFor(
  sql: Queryable,
  person: PersonId,
  ids: readonly number[],
  now: Date,
): Promise<Map<MessageId, Learned>> {
  const guesses = new Map<MessageId, Learned>();
  if (ids.length === 0) return guesses;
  // A person waits for the guess under the focus: one way to the database and back, not four.
  const [model, there, first] = await Promise.all([
    modelOf(sql, person),
    foldersThere(sql, person),
    readFilingMails(sql, person, ids.slice(0, AT_ONCE)),
  ]);
  if (!model) return guesses;
  for (let at = 0; at < ids.length; at += AT_ONCE)
    for (const [id, mail] of at === 0 ? first : await readFilingMails(sql, person, ids.slice(at, at + AT_ONCE)))
      guesses.set(id, {
        guesses: model.taught.places
          .rank(mail, now.getTime())
          .filter(({ folder }) => there.has(folder))
          .map(({ folder, confidence, reasons }) => ({
            folder,
            percent: percentOf(confidence),
            why: reasons.map(whyText),
          })),
        junk: junkOf(model.taught.junkiness(mail, now.getTime())),
      });
  return guesses;
}
