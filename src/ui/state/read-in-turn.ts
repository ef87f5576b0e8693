/**
 * Readings of one thing, one after another: an answer that was long on its way never takes the place of a newer one.
 * Who asks before a reading has begun is given that one; who asks while one is under way, the one after it.
 * @param ready what is waited for before a reading begins
 */
export function readInTurn(
  read: () => Promise<void>,
  ready: () => Promise<void> = () => Promise.resolve(),
): () => Promise<void> {
  let line: Promise<void> = Promise.resolve();
  let asked: Promise<void> | null = null;
  return () => {
    if (asked) return asked;
    const mine = line
      .catch(() => undefined)
      .then(ready)
      .finally(() => (asked = null))
      .then(read);
    asked = line = mine;
    return mine;
  };
}
