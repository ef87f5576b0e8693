import type { RemoteHead } from "../../gateway";

/** A line, parsing threads and the database are busy at the same time. */

/** Sources are asked for until one of these is reached. */
const FIRST_PIECE = 50;
const PIECE = 500;
const PIECE_BYTES = 16 << 20;

/** @param isFirst whether somebody waits for the first of them */
export function* pieces(heads: readonly RemoteHead[], isFirst: boolean): Generator<readonly RemoteHead[]> {
  let piece: RemoteHead[] = [];
  let bytes = 0;
  let most = isFirst ? FIRST_PIECE : PIECE;
  for (const head of heads) {
    if (piece.length > 0 && (piece.length >= most || bytes + head.size > PIECE_BYTES)) {
      yield piece;
      [piece, bytes, most] = [[], 0, PIECE];
    }
    piece.push(head);
    bytes += head.size;
  }
  if (piece.length > 0) yield piece;
}

/** What somebody wants to read now waits for what is being asked for: that is as much as the line brings in this time. */
const ASKED_MS = 600;
export const FIRST_ASKED_BYTES = 256 << 10;
const LEAST_ASKED_BYTES = 64 << 10;
const MOST_ASKED_BYTES = 8 << 20;

/**
 * How much is to be asked for next, so that it takes about as long as somebody may have to wait for it.
 * @param most how much was to be asked for before
 * @param bytes how much that came to
 * @param ms how long it took
 */
export function nextAskedBytes(most: number, bytes: number, ms: number): number {
  // One that was small and quick says nothing of the line.
  if (bytes < most / 2 && ms < ASKED_MS) return most;
  const aim = Math.min((bytes / Math.max(ms, 1)) * ASKED_MS, most * 4);
  return Math.min(Math.max(Math.round(aim), LEAST_ASKED_BYTES), MOST_ASKED_BYTES);
}

/** Does what is asked of a line one after the other. */
export function oneAtATime() {
  let last: Promise<unknown> = Promise.resolve();
  return <T>(work: () => Promise<T>): Promise<T> => {
    const next = last.then(work, work);
    last = next;
    return next;
  };
}
export type Line = ReturnType<typeof oneAtATime>;

/** Has the next one made while the one before is worked on. */
export async function* ahead<T>(from: AsyncGenerator<T>): AsyncGenerator<T> {
  const next = () => {
    const coming = from.next();
    // Whoever waits for it hears what went wrong.
    coming.catch(() => undefined);
    return coming;
  };
  for (let coming = next(); ;) {
    const { value, done } = await coming;
    if (done) return;
    coming = next();
    yield value;
  }
}
