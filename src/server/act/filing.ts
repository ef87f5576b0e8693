import type { z } from "zod";
import { MOST_GUESSED, type filingReset, type FilingShape, type GuessesAnswer } from "@/core/api";
import { signText, type Sign } from "@/core/filing";
import { messageId } from "@/core/id";
import type { Transaction } from "../db";
import { forget, guessesFor, modelOf } from "../filing";
import { readDirectory, Refusal } from "../run";
import type { Context } from "./context";

/** What filing has taught: asked, looked at, taken along, forgotten. */

/** Where messages probably belong, for a few of them. @throws Refusal (422) for too many */
export async function readGuesses({ db, person }: Context, ids: readonly number[], now: Date): Promise<GuessesAnswer> {
  if (ids.length > MOST_GUESSED)
    throw new Refusal(422, "Too many messages", `Ask about at most ${MOST_GUESSED} messages at once.`);
  const guesses = await guessesFor(db.sql, person, ids, now);
  return {
    messages: ids.map((id) => {
      const learned = guesses.get(messageId(id));
      return { id, guesses: [...(learned?.guesses ?? [])], junk: learned?.junk ?? null };
    }),
  };
}

/** Of what is found in a folder most often so much is told. */
const MOST_SIGNS = 5;

const told = (signs: readonly Sign[]) => signs.map((sign) => ({ text: signText(sign), times: sign.times }));

/** What is held, so that a person can see it. */
export async function readFiling({ db, person }: Context): Promise<FilingShape> {
  const [counts] = await db.sql<{ learned: number; due: number }[]>`
    select (select count(*)::int from filing_receipt r join folder f on f.person = r.person and f.id = r.folder
        where r.person = ${person} and r.left_at is null and f.role is null) as learned,
      (select count(distinct message)::int from filing_due where person = ${person}) as due`;
  const model = await modelOf(db.sql, person);
  const { folders } = await readDirectory(db.sql, person);
  const taught = model?.taught;
  const known = folders.flatMap(({ id, path, role }) => {
    const learned = role === null ? (taught?.places.learned(id) ?? 0) : 0;
    return learned === 0 ? [] : [{ folder: path, learned, signs: told(taught!.places.signs(id, MOST_SIGNS)) }];
  });
  return {
    ...counts!,
    junk: {
      ...(taught?.judged() ?? { junk: 0, wanted: 0 }),
      signs: taught && taught.judged().junk > 0 ? told(taught.junkSigns(MOST_SIGNS)) : [],
    },
    folders: known.sort((a, b) => b.learned - a.learned),
  };
}

/** All of what is held, as JSON text; the same twice is the same text. */
export async function exportFiling({ db, person }: Context): Promise<string> {
  return JSON.stringify((await modelOf(db.sql, person))?.taught ?? null);
}

/** Forgets all that filing has taught. */
export const resetFiling = ({ db, person }: Context, { anew }: z.infer<typeof filingReset>): Promise<void> =>
  db.sql.begin((tx) => forget(tx as Transaction, person, anew)) as Promise<void>;
