import { randomUUID } from "node:crypto";
import { performance } from "node:perf_hooks";

/** What somebody at work asks of the app, as one window would. */

export const KINDS = ["key", "undo", "open", "page", "search", "told"] as const;
export type Kind = (typeof KINDS)[number];
/** One wait: when it began, by this process's clock, and how long it was, ms. */
export interface Wait {
  readonly began: number;
  readonly ms: number;
}
export type Times = Record<Kind, Wait[]>;
export const noTimes = (): Times => ({ key: [], undo: [], open: [], page: [], search: [], told: [] });

/** Of a hundred things that are done. A window narrows by itself; words are looked for by the server, and pages too. */
const SHARE: readonly (readonly [Kind, number])[] = [
  ["key", 60],
  ["undo", 5],
  ["open", 30],
  ["search", 3],
  ["page", 2],
];
const PAGES = ["unread", "folder=Inbox & age>7d", "from~marsh", "size>100k"];
/** Folded, as a window folds them. */
const WORDS = [" helicopter", " invoice", " hut office", " blankets"];

export class Desk {
  /** Since when each of one's own writes is waited for in the stream. */
  private readonly awaited = new Map<string, number>();
  private readonly left = new AbortController();
  private done: string[] = [];
  private next = 0;
  times = noTimes();
  failures = 0;

  constructor(
    private readonly base: string,
    private readonly headers: Record<string, string>,
    private readonly inbox: readonly number[],
    private readonly random: () => number,
  ) {}

  /** Follows what is written, as every window does. */
  async open(after: number): Promise<void> {
    const { body } = await fetch(`${this.base}/events?after=${after}`, {
      headers: this.headers,
      signal: this.left.signal,
    });
    void (async () => {
      let text = "";
      try {
        for await (const piece of body!.pipeThrough(new TextDecoderStream())) {
          const lines = (text += piece).split("\n");
          text = lines.pop()!;
          for (const line of lines) this.hear(line);
        }
      } catch {
        // Left.
      }
    })();
  }

  private hear(line: string): void {
    const id = /^data: \{.*?"id":"([0-9a-f-]{36})"/.exec(line)?.[1];
    const since = id === undefined ? undefined : this.awaited.get(id);
    if (since === undefined) return;
    this.awaited.delete(id!);
    this.times.told.push({ began: since, ms: performance.now() - since });
  }

  close(): void {
    this.left.abort();
  }

  private async ask(kind: Kind, path: string, body?: object): Promise<void> {
    const began = performance.now();
    const answer = await fetch(this.base + path, {
      headers: { ...this.headers, ...(body ? { "content-type": "application/json" } : {}) },
      ...(body ? { method: "POST", body: JSON.stringify(body) } : {}),
    });
    await answer.arrayBuffer();
    if (!answer.ok) this.failures++;
    this.times[kind].push({ began, ms: performance.now() - began });
  }

  private write(kind: "key" | "undo", path: string, body: object): Promise<void> {
    const id = randomUUID();
    this.awaited.set(id, performance.now());
    if (kind === "key") this.done.push(id);
    return this.ask(kind, path, { id, ...body });
  }

  /** One thing, by chance. */
  act(): Promise<void> {
    let dice = this.random() * 100;
    const [kind] = SHARE.find(([, share]) => (dice -= share) < 0) ?? SHARE[0]!;
    const one = <T>(list: readonly T[]): T => list[Math.floor(this.random() * list.length)]!;
    if (kind === "undo" && this.done.length > 0) return this.write("undo", `/ledger/${this.done.pop()!}/undo`, {});
    if (kind === "open") return this.ask("open", `/messages/${one(this.inbox)}`);
    if (kind === "page") return this.ask("page", `/messages?limit=100&narrow=${encodeURIComponent(one(PAGES))}`);
    if (kind === "search") return this.ask("search", `/words?needle=${encodeURIComponent(one(WORDS))}`);
    const ids = [this.inbox[this.next++ % this.inbox.length]!];
    return this.write("key", "/runs", {
      macro: { name: "Archive", steps: [{ do: "read" }, { do: "archive" }] },
      target: { ids },
      about: "A message",
    });
  }
}
