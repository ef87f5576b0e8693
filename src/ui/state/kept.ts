import { createStore, del, entries, set } from "idb-keyval";
import type { Decision } from "./decision";
import type { Letter } from "./letters";
import type { Kept } from "./queue";

/**
 * What a window keeps in the browser until the server has it: by the mailbox and the window it belongs to, so that
 * the next person's window never sends what another one wrote.
 *
 * The browser drops what it was still writing when a window goes. What was not written by then is written at that
 * moment in the one store that takes things at once, which is too small and too slow for all of it always.
 */
class KeptHere<T> {
  private readonly store;
  /** What is still being written; undefined where all is. */
  private unwritten: { readonly what: T | null } | undefined;

  /**
   * @param database which is of this alone
   * @param whose the mailbox's token and the window's id
   */
  constructor(
    private readonly database: string,
    name: string,
    private readonly whose: Window,
  ) {
    this.store = createStore(database, name);
    window.addEventListener("pagehide", () => {
      if (this.unwritten) writeAtOnce(this.leftKey(this.key), this.unwritten);
    });
  }

  private get key(): string {
    return `${this.whose.token} ${this.whose.id}`;
  }

  private leftKey = (key: string): string => `${this.database} left ${key}`;

  /** @param what null for nothing */
  async keep(what: T | null): Promise<void> {
    const writing = { what };
    this.unwritten = writing;
    await (what === null ? del(this.key, this.store) : set(this.key, what, this.store));
    if (this.unwritten !== writing) return;
    this.unwritten = undefined;
    // Here still after all: what is written now is newer than what was left.
    localStorage.removeItem(this.leftKey(this.key));
  }

  /** What windows have kept, by key; what one wrote last of all counts. */
  private async all(): Promise<Map<string, T | null>> {
    const all = new Map<string, T | null>(await entries<string, T>(this.store));
    const start = this.leftKey("");
    for (const key of Object.keys(localStorage)) {
      if (!key.startsWith(start)) continue;
      const left = readLeft<{ readonly what: T | null }>(key);
      if (left) all.set(key.slice(start.length), left.what);
    }
    return all;
  }

  /** Whether any window of the mailbox, this one or another, has something here. */
  async hasAny(): Promise<boolean> {
    const start = `${this.whose.token} `;
    return [...(await this.all())].some(([key, kept]) => kept !== null && key.startsWith(start));
  }

  /** Hands over what windows that are gone had kept; it is forgotten once it was taken over. */
  async adopt(takeOver: (kept: T) => Promise<void>): Promise<void> {
    for (const [key, kept] of await this.all()) {
      const [token, window] = key.split(" ");
      if (token !== this.whose.token || window === undefined || window === this.whose.id) continue;
      await navigator.locks.request(lockOf(window), { ifAvailable: true }, async (lock) => {
        if (!lock) return;
        if (kept !== null) await takeOver(kept);
        await del(key, this.store);
        localStorage.removeItem(this.leftKey(key));
      });
    }
  }
}

function writeAtOnce(key: string, what: object): void {
  try {
    localStorage.setItem(key, JSON.stringify(what));
  } catch {
    // No room: what the browser has written by itself is all there is.
  }
}

function readLeft<T>(key: string): T | null {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "null") as T | null;
  } catch {
    return null;
  }
}

/** A window, and whose mail it shows. */
interface Window {
  readonly token: string;
  readonly id: string;
}

const lockOf = (window: string): string => `tachyne-window-${window}`;

const id = typeof crypto === "undefined" ? "" : crypto.randomUUID();
let isHeld = false;

/** @param token of the mailbox */
function thisWindow(token: string): Window {
  // Held for as long as this window lives; whoever can take it later knows that the window is gone.
  if (!isHeld) void navigator.locks.request(lockOf(id), () => new Promise<void>(() => {}));
  isHeld = true;
  return { token, id };
}

/** A described selection is kept as that: whoever sends it later needs no hundred thousand ids. */
const short = (decision: Decision): Decision =>
  decision.kind === "run" && decision.described ? { ...decision, ids: [] } : decision;

export class KeptDecisions {
  private readonly here: KeptHere<Kept>;
  constructor(token: string) {
    this.here = new KeptHere("tachyne", "decisions", thisWindow(token));
  }

  keep = ({ waiting, aside }: Kept): Promise<void> =>
    this.here.keep(waiting.length + aside.length === 0 ? null : { waiting: waiting.map(short), aside });
  hasAny = (): Promise<boolean> => this.here.hasAny();
  adopt = (takeOver: (kept: Kept) => Promise<void>): Promise<void> => this.here.adopt(takeOver);
}

export class KeptLetters {
  private readonly here: KeptHere<readonly Letter[]>;
  constructor(token: string) {
    this.here = new KeptHere("tachyne-letters", "letters", thisWindow(token));
  }

  keep = (letters: readonly Letter[]): Promise<void> => this.here.keep(letters.length === 0 ? null : letters);
  hasAny = (): Promise<boolean> => this.here.hasAny();
  adopt = (takeOver: (kept: readonly Letter[]) => Promise<void>): Promise<void> => this.here.adopt(takeOver);
}
