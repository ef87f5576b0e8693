import { Worker } from "node:worker_threads";
import type { ParseAnswer, ParsedItem, ParseRequest, WordsItem } from "./parse-worker";

interface Waiting {
  readonly resolve: (items: ParseAnswer["items"]) => void;
  readonly reject: (error: Error) => void;
}

/** Parses messages in worker threads, batch by batch; answers come in the order they are ready. */
export class ParsePool {
  private readonly workers: Worker[];
  private readonly waiting = new Map<number, Waiting & { worker: Worker }>();
  private next = 0;

  /** @param file the built worker, `dist/parse-worker.mjs` */
  constructor(
    file: string,
    readonly size: number,
  ) {
    this.workers = Array.from({ length: size }, () => {
      const worker = new Worker(file);
      worker.on("message", ({ batch, items }: ParseAnswer) => {
        this.waiting.get(batch)?.resolve(items);
        this.waiting.delete(batch);
      });
      worker.on("error", (error: Error) => this.fail(worker, error));
      worker.on("exit", () => this.fail(worker, new Error("a parsing thread ended")));
      return worker;
    });
  }

  private fail(worker: Worker, error: Error): void {
    for (const [batch, entry] of this.waiting) {
      if (entry.worker !== worker) continue;
      entry.reject(error);
      this.waiting.delete(batch);
    }
  }

  /** @param raws are handed over to the thread: use the ones that come back */
  parse(raws: readonly Uint8Array[], now: Date): Promise<readonly ParsedItem[]> {
    return this.ask("messages", raws, now) as Promise<readonly ParsedItem[]>;
  }

  /** The words of messages; null for one that cannot be read. @param raws are handed over to the thread */
  words(raws: readonly Uint8Array[], now: Date): Promise<readonly (WordsItem | null)[]> {
    return this.ask("words", raws, now) as Promise<readonly (WordsItem | null)[]>;
  }

  private ask(what: ParseRequest["what"], raws: readonly Uint8Array[], now: Date): Promise<ParseAnswer["items"]> {
    const batch = this.next++;
    const worker = this.workers[batch % this.workers.length]!;
    return new Promise((resolve, reject) => {
      this.waiting.set(batch, { resolve, reject, worker });
      worker.postMessage(
        { batch, what, raws, nowMs: now.getTime() } satisfies ParseRequest,
        raws.map((raw) => raw.buffer as ArrayBuffer),
      );
    });
  }

  async close(): Promise<void> {
    await Promise.all(this.workers.map((worker) => worker.terminate()));
  }
}
