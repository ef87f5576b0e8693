import { MOST_GUESSED, type GuessesAnswer, type GuessShape } from "@/core/api";
import { get } from "./api";
import { mailbox, notify, set, view } from "./store";

/**
 * Where messages probably belong: asked of the server for what is in sight and what comes next, and kept, so that a key
 * files in the frame it is pressed in.
 */

type Junk = GuessesAnswer["messages"][number]["junk"];

interface Known {
  readonly guesses: readonly GuessShape[];
  readonly junk: Junk;
  /** What was learned when it was made. */
  readonly age: number;
}

/** More are hardly ever looked at before they are asked about anew. */
const MOST_KNOWN = 20_000;
const known = new Map<number, Known>();
/** Counts what was learned since. */
let age = 0;
/** What is in sight, or about to be, and the message that is read; what was passed over is not asked about. */
let inSight: readonly number[] = [];
let beingRead: number | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;
let isAsking = false;

/** A held key passes over messages: only where it stops is asked. */
const SETTLE_MS = 80;

/** Guesses for a message, the likeliest first; null where they are not known here. */
export const guessesOf = (id: number): readonly GuessShape[] | null => known.get(id)?.guesses ?? null;

/** How probably a message is junk; null where nothing tells, or that is not known here. */
export const junkOf = (id: number): Junk => known.get(id)?.junk ?? null;

/** What the person sees of guesses, as a run tells it: what is filed is what was seen. */
export const seenGuesses = (ids: readonly number[]): number[][] =>
  ids.flatMap((id) => {
    const guesses = guessesOf(id);
    return guesses ? [[id, ...guesses.slice(0, 3).flatMap(({ folder, percent }) => [folder, percent])]] : [];
  });

/** @param asOf what was learned when they were made; -1 for ones to be asked about anew once they are looked at */
function keep(answer: GuessesAnswer, asOf: number): void {
  for (const { id, guesses, junk } of answer.messages) {
    known.delete(id);
    known.set(id, { guesses, junk, age: asOf });
  }
  for (const oldest of known.keys()) {
    // What is to be filed at once is seen at once, however many there are.
    if (asOf < 0 || known.size <= MOST_KNOWN) break;
    known.delete(oldest);
  }
  set({ guessed: view().guessed + 1 });
}

const read = (ids: readonly number[]) => get<GuessesAnswer>(`/guesses?ids=${ids.join(",")}`);

const ask = async (ids: readonly number[]): Promise<void> => {
  const asOf = age;
  keep(await read(ids), asOf);
};

const isOld = (id: number): boolean => known.get(id)?.age !== age;

const wanted = (): number[] => [...(beingRead === null ? [] : [beingRead]), ...inSight].filter(isOld);

async function askWanted(): Promise<void> {
  if (isAsking) return;
  isAsking = true;
  const ids = wanted().slice(0, MOST_GUESSED);
  // Without a connection nothing is guessed; it is asked again when the list moves.
  const isThere =
    ids.length === 0 ||
    (await ask(ids).then(
      () => true,
      () => false,
    ));
  isAsking = false;
  // What came into sight meanwhile.
  if (isThere && wanted().length > 0) later();
}

function later(): void {
  clearTimeout(timer);
  timer = setTimeout(() => void askWanted(), SETTLE_MS);
}

/** Asks for guesses for what is or will be in sight, as far as they are not known or old. */
export function wantGuesses(ids: readonly number[]): void {
  inSight = ids.slice(0, MOST_GUESSED - 1);
  if (inSight.some(isOld)) later();
}

/** The same for the message that is read, wherever it is. */
export function wantGuess(id: number): void {
  beingRead = id;
  if (isOld(id)) later();
}

/** Something was learned: what is in sight is asked about anew. */
export function noteLearned(): void {
  age++;
  set({ learned: view().learned + 1 });
}

/**
 * Asks about all of some messages. What is known here stays as it was seen.
 * @param progress how many are known by now @throws as the api does
 */
export async function fetchGuesses(ids: readonly number[], progress: (known: number) => void): Promise<void> {
  const missing = ids.filter((id) => !known.has(id));
  for (let at = 0; at < missing.length; at += MOST_GUESSED) {
    progress(ids.length - missing.length + at);
    const { messages } = await read(missing.slice(at, at + MOST_GUESSED));
    // Reasons are for what is looked at.
    const bare = messages.map(({ guesses, ...one }) => ({
      ...one,
      guesses: guesses.map((guess) => ({ ...guess, why: [] })),
    }));
    keep({ messages: bare }, -1);
  }
  progress(ids.length);
}

/** A list longer than this is put in order as far as it is known. */
const MOST_JUDGED = 5000;
let judging = "";

/** Asks how probably rows are junk, for a list that is ordered by it. @param then what is shown anew with them */
export function askWhatIsJunk(rows: ArrayLike<number>, then: () => void): void {
  const ids = Array.from(rows, (row) => mailbox.columns.id[row]!).slice(-MOST_JUDGED);
  const missing = ids.filter((id) => !known.has(id));
  const asked = missing.join();
  if (missing.length === 0 || asked === judging) return;
  judging = asked;
  const say = (n: number) => notify(`Looking how probably junk they are: ${n} of ${ids.length}.`);
  fetchGuesses(ids, say).then(then, (problem: unknown) => {
    judging = "";
    const why = problem instanceof Error ? problem.message : "the server failed";
    notify(`Not all are in order: ${why}`, "trouble");
  });
}

/** What the row in sight says of where its message belongs. */
export interface RowGuess {
  readonly path: string;
  readonly percent: number;
}

/** A guess that is not sure enough says that it is asked for. */
export const ASKS: RowGuess = { path: "", percent: 0 };

/** Whether its message is still to be filed, which mail in the inbox is. */
export function canGuess(row: number): boolean {
  const inbox = view().directory.folders.find(({ role }) => role === "inbox");
  return inbox !== undefined && mailbox.columns.folder[row] === (inbox.id as number);
}

/** What its row says of where it belongs; null for nothing. */
export function rowGuess(row: number): RowGuess | null {
  const first = canGuess(row) ? guessesOf(mailbox.columns.id[row]!)?.[0] : undefined;
  if (!first) return null;
  const { directory, home } = view();
  const folder = directory.folders.find(({ id }) => (id as number) === first.folder);
  const isSure = first.percent >= (home?.settings.leastSure ?? 0);
  return folder && isSure ? { path: folder.path, percent: first.percent } : ASKS;
}
