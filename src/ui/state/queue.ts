import { createStore, del, entries, set } from "idb-keyval";
import type { RunAnswer, RunRequest, UndoAnswer } from "@/core/api";
import { Away, Refused, write } from "./api";
import type { Decision } from "./settle";

/** Waits between tries while the server is away. */
const RETRY_MS = [300, 600, 1000, 2000, 3000];

/** What became of a sent decision, beyond what the events tell. */
export interface QueueEvents {
  readonly answered: (decision: Decision, answer: RunAnswer | UndoAnswer) => void;
  readonly refused: (decision: Decision, why: string) => void;
  readonly link: (link: "here" | "away") => void;
}

/**
 * Sends decisions to the server one after another, for as long as it takes. What has not been answered is
 * kept in the browser: a window that was closed hands its decisions to the next one.
 */
export class SendQueue {
  private queue: Decision[] = [];
  private sending = false;
  private tries = 0;
  private readonly kept = createStore("tachyne", "decisions");
  private readonly window = crypto.randomUUID();

  constructor(private readonly events: QueueEvents) {
    // Held for as long as this window lives; whoever can take it later knows that the window is gone.
    void navigator.locks.request(`tachyne-window-${this.window}`, () => new Promise<void>(() => {}));
  }

  /** Decisions of windows that are gone, oldest first. */
  async adopt(): Promise<Decision[]> {
    const found: Decision[] = [];
    for (const [key, decisions] of await entries<string, Decision[]>(this.kept)) {
      if (key === this.window) continue;
      await navigator.locks.request(`tachyne-window-${key}`, { ifAvailable: true }, async (lock) => {
        if (!lock) return;
        found.push(...decisions);
        await del(key, this.kept);
      });
    }
    return found.sort((a, b) => a.at.localeCompare(b.at));
  }

  add(decision: Decision): void {
    this.queue.push(decision);
    void this.keep();
    void this.run();
  }

  private keep(): Promise<void> {
    // A described selection is kept as that: whoever sends it later needs no hundred thousand ids.
    const kept = this.queue.map((decision) =>
      decision.kind === "run" && decision.described ? { ...decision, ids: [] } : decision,
    );
    return kept.length > 0 ? set(this.window, kept, this.kept) : del(this.window, this.kept);
  }

  private send(decision: Decision): Promise<RunAnswer | UndoAnswer> {
    if (decision.kind !== "run")
      return write<UndoAnswer>("POST", `/ledger/${decision.of}/${decision.kind}`, { id: decision.id });
    const { id, macro, ids, described, answers, at } = decision;
    const request: RunRequest = {
      id,
      macro: { ...macro, steps: [...macro.steps], ...(macro.settings ? { settings: macro.settings } : {}) },
      target: described ?? { ids: [...ids] },
      answers: { ...answers },
      at,
    };
    return write<RunAnswer>("POST", "/runs", request);
  }

  private async run(): Promise<void> {
    if (this.sending) return;
    this.sending = true;
    while (this.queue.length > 0) {
      const decision = this.queue[0]!;
      try {
        const answer = await this.send(decision);
        this.tries = 0;
        this.events.link("here");
        this.queue.shift();
        this.events.answered(decision, answer);
      } catch (error) {
        if (error instanceof Away) {
          this.events.link("away");
          await new Promise((resolve) => setTimeout(resolve, RETRY_MS[Math.min(this.tries++, RETRY_MS.length - 1)]));
          continue;
        }
        this.queue.shift();
        this.events.refused(decision, error instanceof Refused ? error.problem.detail : "It could not be sent.");
      }
      await this.keep();
    }
    this.sending = false;
  }
}
