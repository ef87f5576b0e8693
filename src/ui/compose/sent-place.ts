import { useEffect } from "react";
import { guessesOf, wantGuess } from "../state/guesses";
import { mailbox, useView, view } from "../state/store";

/** Where the sent copy of an answer belongs. */
export interface SentPlace {
  readonly path: string;
  /** How sure the guess is; null where what it answers is filed there. */
  readonly percent: number | null;
}

function placeOf(answers: number): SentPlace | null {
  const { directory, home } = view();
  const row = mailbox.rowOf(answers);
  const pathOf = (folder: number) =>
    directory.folders.find(({ id, role }) => role === null && (id as number) === folder)?.path;
  const here = row === undefined ? undefined : pathOf(mailbox.columns.folder[row]!);
  if (here !== undefined) return { path: here, percent: null };
  const [first] = guessesOf(answers) ?? [];
  const path = first && first.percent >= (home?.settings.leastSure ?? 0) ? pathOf(first.folder) : undefined;
  return path === undefined ? null : { path, percent: first!.percent };
}

/** The folder an answer belongs in: where what it answers is filed, or else would be; null where nothing is sure enough. */
export function useSentPlace(answers: number | null): SentPlace | null {
  useView((v) => v.guessed);
  useEffect(() => {
    if (answers !== null) wantGuess(answers);
  }, [answers]);
  return answers === null ? null : placeOf(answers);
}
