import { createStore, del, entries, set } from "idb-keyval";
import type { Kept } from "./queue";

/**
 * What the queue keeps in the browser: by the mailbox and the window it belongs to, so that the next person's
 * window never sends what another one decided.
 */
export class KeptDecisions {
  private readonly store = createStore("tachyne", "decisions");
  private readonly window = crypto.randomUUID();

  /** @param token of the mailbox */
  constructor(private readonly token: string) {
    // Held for as long as this window lives; whoever can take it later knows that the window is gone.
    void navigator.locks.request(this.lockOf(this.window), () => new Promise<void>(() => {}));
  }

  private lockOf = (window: string): string => `tachyne-window-${window}`;
  private get key(): string {
    return `${this.token} ${this.window}`;
  }

  async keep({ waiting, aside }: Kept): Promise<void> {
    if (waiting.length + aside.length === 0) return del(this.key, this.store);
    // A described selection is kept as that: whoever sends it later needs no hundred thousand ids.
    const kept = waiting.map((decision) =>
      decision.kind === "run" && decision.described ? { ...decision, ids: [] } : decision,
    );
    await set(this.key, { waiting: kept, aside } satisfies Kept, this.store);
  }

  /** Hands over what windows that are gone had kept, oldest first; it is forgotten once it was taken over. */
  async adopt(takeOver: (kept: Kept) => Promise<void>): Promise<void> {
    for (const [key, kept] of await entries<string, Kept>(this.store)) {
      const [token, window] = key.split(" ");
      if (token !== this.token || window === undefined || window === this.window) continue;
      await navigator.locks.request(this.lockOf(window), { ifAvailable: true }, async (lock) => {
        if (!lock) return;
        await takeOver(kept);
        await del(key, this.store);
      });
    }
  }
}
