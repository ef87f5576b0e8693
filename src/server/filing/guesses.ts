import { percentOf, whyText } from "@/core/filing";
import type { FolderId, MessageId, PersonId } from "@/core/id";
import type { FolderGuess } from "@/core/macro";
import type { Queryable } from "../db";
import { readFilingMails } from "./mails";
import { modelOf } from "./model";

/** A guess with what speaks for it, in words. */
export interface ExplainedGuess extends FolderGuess {
  readonly why: string[];
}

/** Messages read at a time. */
const AT_ONCE = 250;

/** Where messages probably belong, the likeliest first; those that there are none for, or that are not there, have none. */
export async function guessesFor(
  sql: Queryable,
  person: PersonId,
  ids: readonly number[],
  now: Date,
): Promise<Map<MessageId, readonly ExplainedGuess[]>> {
  const guesses = new Map<MessageId, readonly ExplainedGuess[]>();
  const model = ids.length === 0 ? null : await modelOf(sql, person);
  if (!model) return guesses;
  const rows = await sql<{ id: FolderId }[]>`
    select id from folder where person = ${person} and role is null and not removed`;
  const there = new Set(rows.map(({ id }) => id));
  for (let at = 0; at < ids.length; at += AT_ONCE)
    for (const [id, mail] of await readFilingMails(sql, person, ids.slice(at, at + AT_ONCE)))
      guesses.set(
        id,
        model.ranker
          .rank(mail, now.getTime())
          .filter(({ folder }) => there.has(folder))
          .map(({ folder, confidence, reasons }) => ({
            folder,
            percent: percentOf(confidence),
            why: reasons.map(whyText),
          })),
      );
  return guesses;
}
