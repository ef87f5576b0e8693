import type { Database } from "../db";
import { CHANNEL, currentSeq, entriesAfter, type News } from "../store";
import type { Context } from "./context";
import { entryShapeOf } from "./runs";

/**
 * What a window is told. Settings: folders, labels, markers, macros, decks or batches changed; read them again.
 * Words: more of the mail can be searched by its words. Ledger: what has become of a run is not what it was. Outgoing: the same for what is on its way.
 * Accounts: how mail servers are, and how far they are taken in. Filing: what filing has taught.
 */
export type Event =
  | { readonly type: "written"; readonly seq: number; readonly data: unknown }
  | { readonly type: Side; readonly seq: null; readonly data: null };

/** What a window reads anew. That a session may have ended it is told by its stream's end. */
type Side = Exclude<News, "sessions">;
type Told = Side | "written" | "sessions";
type Listener = (what: Told) => void;
const SIDE = ["settings", "words", "ledger", "outgoing", "accounts", "filing"] as const satisfies readonly Side[];

const NOTHING_TOLD = {
  settings: false,
  words: false,
  ledger: false,
  outgoing: false,
  accounts: false,
  filing: false,
  sessions: false,
} as const;
const ALL_TOLD = {
  settings: true,
  words: true,
  ledger: true,
  outgoing: true,
  accounts: true,
  filing: true,
  sessions: true,
  written: true,
} as const;

const listeners = new Map<number, Set<Listener>>();
let listening: Promise<unknown> | null = null;

/** One connection a process hears what every process wrote; it listens again by itself when it was cut. */
function listen(db: Database): Promise<unknown> {
  const toAll = () => {
    for (const group of listeners.values())
      for (const listener of group) for (const what of [...SIDE, "written", "sessions"] as const) listener(what);
  };
  listening ??= db.sql
    .listen(
      CHANNEL,
      (payload) => {
        const [person, what] = payload.split(" ");
        for (const listener of listeners.get(Number(person)) ?? [])
          listener(what === "sessions" ? what : (SIDE.find((told) => told === what) ?? "written"));
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

/** A process that ended right behind a commit has told nobody of it: a stream looks by itself so often. */
const LOOK_EVERY_MS = 30_000;

/** Tells at each look whether something was written since the one before of which nothing was heard. */
export function untold(): (seq: number, heard: boolean) => boolean {
  let before: number | null = null;
  return (seq, heard) => {
    const isUntold = !heard && before !== null && seq !== before;
    before = seq;
    return isUntold;
  };
}

/**
 * Looks now and then for what nobody has told.
 * @param hasHeard whether anything was heard since it was asked last
 * @returns ends it
 */
function lookForUntold({ db, person }: Context, hasHeard: () => boolean, missed: () => void): () => void {
  const isUntold = untold();
  const look = (): void => {
    currentSeq(db.sql, person).then(
      (seq) => isUntold(seq, hasHeard()) && missed(),
      // The database is away: the next look finds it.
      () => undefined,
    );
  };
  look();
  const timer = setInterval(look, LOOK_EVERY_MS);
  return () => clearInterval(timer);
}

/**
 * Events after the write with that number, until the signal ends it. Entries come in order, each once. What is not
 * numbered is told of as soon as nothing of it can be missed any more: a window read it before, and it may be old.
 * Not so words, for which a search that is open would be made again.
 * @param after the last write the window knows of
 * @param isIn whether the window's session is one still: its end ends the stream
 */
export async function* eventsFor(
  context: Context,
  after: number,
  signal: AbortSignal,
  isIn: () => Promise<boolean>,
): AsyncGenerator<Event> {
  const { db, person } = context;
  let wake: () => void = () => {};
  let pending: Record<Told, boolean> = { ...ALL_TOLD, words: false };
  let heard = false;
  const listener: Listener = (what) => {
    heard = true;
    pending = { ...pending, [what]: true };
    wake();
  };
  const hasHeard = () => {
    const was = heard;
    heard = false;
    return was;
  };
  const missed = () => {
    pending = ALL_TOLD;
    wake();
  };
  const group = listeners.get(person) ?? new Set();
  listeners.set(person, group.add(listener));
  const stop = () => wake();
  signal.addEventListener("abort", stop);
  const lookNoMore = lookForUntold(context, hasHeard, missed);
  try {
    await listen(db);
    let seen = after;
    while (!signal.aborted) {
      const { written, sessions, ...told } = pending;
      pending = { written: false, ...NOTHING_TOLD };
      if (sessions && !(await isIn())) return;
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
    lookNoMore();
    group.delete(listener);
    signal.removeEventListener("abort", stop);
  }
}
