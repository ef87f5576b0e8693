/**
 * What the server answered last, kept in the browser for when it does not answer: settings, what the screens list,
 * and the texts of messages. One person's only, bounded, and worth nothing but time: whatever goes wrong here is as
 * if nothing were kept.
 */
const NAME = "tachyne-answers";
/** Texts kept; the ones that were kept first go first. */
export const MOST_TEXTS = 1000;
/** Longer ones are read when they are looked at. */
const LONGEST = 400_000;
const KEPT_AT = "x-kept-at";

export interface KeptAnswer<T> {
  readonly value: T;
  /** When the server said so, milliseconds since 1970. */
  readonly at: number;
}

/** Ids of the messages whose texts are here; null until that was looked up. */
let texts: Set<number> | null = null;
/** Whether the person wants nothing kept any more, until the app is opened anew. */
let isOver = false;

/** The message whose text is read from there; null for everything else. */
const messageOf = (path: string): number | null => Number(/^\/messages\/(\d+)$/.exec(path)?.[1] ?? NaN) || null;

const open = (): Promise<Cache> => caches.open(NAME);

async function textsIn(cache: Cache): Promise<Set<number>> {
  if (texts === null) {
    const ids = (await cache.keys()).map(({ url }) => messageOf(new URL(url).pathname));
    texts ??= new Set(ids.filter((id) => id !== null));
  }
  return texts;
}

/** Keeps an answer. @param path as it was asked for, `/tasks` say */
export async function keepAnswer(path: string, body: string): Promise<void> {
  try {
    if (isOver || body.length > LONGEST) return;
    const cache = await open();
    await cache.put(path, new Response(body, { headers: { [KEPT_AT]: String(Date.now()) } }));
    const id = messageOf(path);
    if (id === null) return;
    const here = await textsIn(cache);
    // Kept again, it is the newest.
    here.delete(id);
    here.add(id);
    for (const old of here) {
      if (here.size <= MOST_TEXTS) break;
      here.delete(old);
      await cache.delete(`/messages/${old}`);
    }
  } catch {
    // No room, or a browser that keeps nothing.
  }
}

/** @returns what was kept, or null */
export async function keptAnswer<T>(path: string): Promise<KeptAnswer<T> | null> {
  try {
    const found = await (await open()).match(path);
    if (!found) return null;
    return { value: (await found.json()) as T, at: Number(found.headers.get(KEPT_AT)) };
  } catch {
    return null;
  }
}

/** Which of some messages have no text here. */
export async function withoutText(ids: readonly number[]): Promise<readonly number[]> {
  try {
    const here = await textsIn(await open());
    return isOver ? [] : ids.filter((id) => !here.has(id));
  } catch {
    return [];
  }
}

/** How many texts are here. */
export const countTexts = async (): Promise<number> => {
  try {
    return (await textsIn(await open())).size;
  } catch {
    return 0;
  }
};

async function emptyAnswers(): Promise<void> {
  texts = new Set();
  await caches.delete(NAME).catch(() => false);
}

/** Gives up all of it, and keeps nothing any more. */
export async function endAnswers(): Promise<void> {
  isOver = true;
  await emptyAnswers();
}

/** Gives up what was kept of another mailbox. @param token of the one that is shown */
export async function ownAnswers(token: string): Promise<void> {
  const kept = await keptAnswer<{ person: { token: string } }>("/home");
  if (kept && kept.value.person.token !== token) await emptyAnswers();
}
