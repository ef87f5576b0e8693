import type { Database } from "../db";
import { CHANNEL, entriesAfter, type News } from "../store";
import type { Context } from "./context";
import { entryShapeOf } from "./runs";

/**
 * What a window is told. Settings: folders, labels, markers, macros, decks or batches changed; read them again.
 * Words: more of the mail can be searched by its words. Ledger: what has become of a run is not what it was. Outgoing: the same for what is on its way.
 * Accounts: how mail servers are, and how far they are taken in. Filing: what filing has taught.
 */
export type Event =
  | { readonly type: "written"; readonly seq: number; readonly data: unknown }
  | { readonly type: News; readonly seq: null; readonly data: null };

type Told = Event["type"];
type Listener = (what: Told) => void;
const SIDE = ["settings", "words", "ledger", "outgoing", "accounts", "filing"] as const satisfies readonly News[];

const NOTHING_TOLD = {
  settings: false,
  words: false,
  ledger: false,
  outgoing: false,
  accounts: false,
  filing: false,
} as const;

const listeners = new Map<number, Set<Listener>>();
let listening: Promise<unknown> | null = null;

/** One connection a process hears what every process wrote; it listens again by itself when it was cut. */
function listen(db: Database): Promise<unknown> {
  const toAll = () => {
    for (const group of listeners.values()) for (const listener of group) listener("written");
  };
  listening ??= db.sql
    .listen(
      CHANNEL,
      (payload) => {
        const [person, what] = payload.split(" ");
        for (const listener of listeners.get(Number(person)) ?? [])
          listener(SIDE.find((told) => told === what) ?? "written");
      },
      // After a break something may have been missed; everybody looks.
      toAll,
    )
    .catch((error: unknown) => {
      listening = null;
      throw error;
    });
  return listening;
}

const ENTRIES_AT_ONCE = 50;

/**
 * Events after the write with that number, until the signal ends it. Entries come in order, each once.
 * @param after the last write the window knows of
 */
export async function* eventsFor({ db, person }: Context, after: number, signal: AbortSignal): AsyncGenerator<Event> {
  let wake: () => void = () => {};
  let pending: Record<Told, boolean> = { written: true, ...NOTHING_TOLD };
  const listener: Listener = (what) => {
    pending = { ...pending, [what]: true };
    wake();
  };
  const group = listeners.get(person) ?? new Set();
  listeners.set(person, group.add(listener));
  const stop = () => wake();
  signal.addEventListener("abort", stop);
  try {
    await listen(db);
    let seen = after;
    while (!signal.aborted) {
      const { written, ...told } = pending;
      pending = { written: false, ...NOTHING_TOLD };
      for (const type of SIDE) if (told[type]) yield { type, seq: null, data: null };
      for (let more = written; more && !signal.aborted;) {
        const entries = await entriesAfter(db.sql, person, seen, ENTRIES_AT_ONCE);
        for (const { entry, change } of entries) {
          seen = entry.seq;
          const data = entry.kind === "arrival" ? { kind: "arrival", change } : { ...entryShapeOf(entry), change };
          yield { type: "written", seq: entry.seq, data };
        }
        more = entries.length === ENTRIES_AT_ONCE;
      }
      if (!Object.values(pending).some(Boolean) && !signal.aborted)
        await new Promise<void>((resolve) => (wake = resolve));
    }
  } finally {
    group.delete(listener);
    signal.removeEventListener("abort", stop);
  }
}
